// What is looked at before anything is run: format and lint, types, floors, habits, dead code, and what is written from
// the sources. One list for `npm test` and `npm run check`; a check whose inputs are those it last passed on is not run
// again.
import { existsSync, mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { availableParallelism } from "node:os";
import { join } from "node:path";
import { digest, heard, root } from "./lib.mjs";

const bin = (name) => join(root, "node_modules/.bin", name);
const node = process.execPath;
const CODE = ["src", "e2e", "bench", "scripts", "tools/client/package.json", "package.json", "package-lock.json"];
const SETTINGS = [
  "biome.json",
  "knip.json",
  "tsconfig.json",
  ".dependency-cruiser.cjs",
  "next.config.ts",
  "playwright.config.ts",
  "vitest.config.ts",
];
/** What each check runs, and what its answer rests on; the slowest first, so that none of them ends alone. */
const CHECKS = {
  // The typed client is made from the description of the HTTP interface, so that tests speak to what is described.
  client: { name: "client of the described interface", run: [bin("tsx"), "scripts/client.ts"], on: CODE, quick: true },
  layers: { name: "layers", run: [node, "scripts/layers.mjs"], on: [...CODE, ...SETTINGS], quick: true },
  types: {
    name: "types",
    run: [bin("tsc"), "--noEmit", "-p", "."],
    on: [...CODE, ...SETTINGS],
    after: "client",
    quick: true,
  },
  lint: {
    name: "format and lint",
    run: [bin("biome"), "ci", "--error-on-warnings"],
    on: [...CODE, ...SETTINGS],
    quick: true,
  },
  dead: { name: "dead code", run: [bin("knip"), "--no-config-hints"], on: [...CODE, ...SETTINGS] },
  habits: { name: "habits of the house", run: [node, "scripts/house.mjs"], on: [...CODE, ...SETTINGS], quick: true },
  reference: {
    name: "reference is current",
    run: [bin("tsx"), "scripts/reference.ts", "--check"],
    on: [...CODE, "docs/headless.md", "docs/http.md", "docs/security.md"],
  },
  schema: {
    name: "schema is current",
    run: [bin("tsx"), "scripts/schema.ts", "--check"],
    on: [...CODE, "docs/schema"],
  },
};
const KEPT = join(root, "node_modules/.cache/trialmoor-checks");
/** What a check leaves behind, without which it is run again. */
const LEAVES = { client: "e2e/api.gen.d.ts" };

async function checked(id) {
  const { name, run, on } = CHECKS[id];
  const begun = Date.now();
  const stamp = join(KEPT, id);
  const wanted = digest(on, true);
  const leaves = LEAVES[id];
  const stands =
    existsSync(stamp) && readFileSync(stamp, "utf8") === wanted && (!leaves || existsSync(join(root, leaves)));
  const { ok, said } = stands ? { ok: true, said: "" } : await heard(run);
  if (ok && !stands) writeFileSync(stamp, wanted);
  if (!ok) console.error(said.trim());
  const took = stands ? "as before" : `${((Date.now() - begun) / 1000).toFixed(0)} s`;
  console.log(`${ok ? "ok" : "FAILED"}: ${name}, ${took}`);
  return ok;
}

/**
 * Runs the checks side by side, as many as there are processors.
 * @param quick only those that somebody waits for at every change
 * @returns what passed and the names of what failed
 */
export async function runChecks(quick = false) {
  mkdirSync(KEPT, { recursive: true });
  const begun = {};
  const left = Object.keys(CHECKS).filter((id) => !quick || CHECKS[id].quick);
  const count = left.length;
  const failed = [];
  const work = async () => {
    for (let id = left.shift(); id !== undefined; id = left.shift()) {
      const { after, name } = CHECKS[id];
      begun[id] = Promise.resolve(begun[after]).then(() => checked(id));
      if (!(await begun[id])) failed.push(name);
    }
  };
  await Promise.all(Array.from({ length: availableParallelism() }, work));
  return { passed: count - failed.length, failed };
}
