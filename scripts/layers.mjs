// Checks the floors of the house (.dependency-cruiser.cjs). The cruiser's parser reads TypeScript but no JSX and cannot
// tell imports of types from others, so it is given two mirrors of src/ in which JSX is compiled away: one with every
// import, one without those of types.
import { cpSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { transformSync } from "esbuild";
import { root, run } from "./lib.mjs";

/** The compiler drops these; they stand on their own lines, as the formatter leaves them. */
const TYPE_IMPORT = /^(?:import|export) type (?:[\w*]|\{)[^;]*? from "[^"]+";$/gm;

function compiled(source, loader, keepTypes) {
  const { code } = transformSync(source, {
    loader,
    jsx: "automatic",
    tsconfigRaw: { compilerOptions: { verbatimModuleSyntax: true } },
  });
  return keepTypes ? `${(source.match(TYPE_IMPORT) ?? []).join("\n")}\n${code}` : code;
}

/** Copies a folder's modules; says how many there are, and how many imports of types in them are kept. */
function copy(from, to, keepTypes, count = { modules: 0, types: 0 }) {
  mkdirSync(to, { recursive: true });
  for (const entry of readdirSync(from, { withFileTypes: true })) {
    const path = join(from, entry.name);
    const loader = /\.(tsx?)$/.exec(entry.name)?.[1];
    if (entry.isDirectory()) copy(path, join(to, entry.name), keepTypes, count);
    else if (loader && !entry.name.endsWith(".d.ts")) {
      const code = compiled(readFileSync(path, "utf8"), loader, keepTypes);
      writeFileSync(join(to, entry.name.replace(/x$/, "")), code);
      count.modules++;
      if (loader === "tsx") count.types += code.match(TYPE_IMPORT)?.length ?? 0;
    } else cpSync(path, join(to, entry.name));
  }
  return count;
}

for (const kind of ["every", "values"]) {
  const mirror = join(root, "dist/layers", kind);
  rmSync(mirror, { recursive: true, force: true });
  const { modules, types } = copy(join(root, "src"), join(mirror, "src"), kind === "every");
  cpSync(join(root, "tsconfig.json"), join(mirror, "tsconfig.json"));
  if (modules < 50 || (kind === "every" && types < 20)) {
    console.error(`Only ${modules} modules and ${types} imports of types were read; the check would say nothing.`);
    process.exit(1);
  }
  run(join(root, "node_modules/.bin/depcruise"), ["src", "--config", join(root, ".dependency-cruiser.cjs")], {
    cwd: mirror,
    env: { LAYERS: kind },
  });
}
