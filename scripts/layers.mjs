// Checks the floors of the house (.dependency-cruiser.cjs). The cruiser's parser reads TypeScript but no JSX, so it is
// given a mirror of src/ in which JSX is compiled away and every import stands as it was.
import { cpSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { transformSync } from "esbuild";
import { root, run } from "./lib.mjs";

const mirror = join(root, "dist/layers");
rmSync(mirror, { recursive: true, force: true });
let modules = 0;
function copy(from, to) {
  mkdirSync(to, { recursive: true });
  for (const entry of readdirSync(from, { withFileTypes: true })) {
    const path = join(from, entry.name);
    if (entry.isDirectory()) copy(path, join(to, entry.name));
    else if (entry.name.endsWith(".tsx")) {
      const { code } = transformSync(readFileSync(path, "utf8"), {
        loader: "tsx",
        jsx: "automatic",
        tsconfigRaw: { compilerOptions: { verbatimModuleSyntax: true } },
      });
      writeFileSync(join(to, entry.name.replace(/x$/, "")), code);
      modules++;
    } else {
      cpSync(path, join(to, entry.name));
      if (entry.name.endsWith(".ts")) modules++;
    }
  }
}
copy(join(root, "src"), join(mirror, "src"));
cpSync(join(root, "tsconfig.json"), join(mirror, "tsconfig.json"));
if (modules < 50) {
  console.error(`Only ${modules} modules were read; the layering check would say nothing.`);
  process.exit(1);
}
run(join(root, "node_modules/.bin/depcruise"), ["src", "--config", join(root, ".dependency-cruiser.cjs")], {
  cwd: mirror,
});
