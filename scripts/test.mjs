// npm test: installs what is missing, then every check and test there is. Closes with "N passed, N failed".
import { spawnSync } from "node:child_process";
import { existsSync, mkdirSync, readFileSync, rmSync } from "node:fs";
import { join } from "node:path";
import { browser, buildApp, bundle, called, install, root } from "./lib.mjs";

install();
browser();
called();
const results = join(root, "test-results");
rmSync(results, { recursive: true, force: true });
mkdirSync(results, { recursive: true });

let passed = 0;
let failed = 0;
const bin = (name) => join(root, "node_modules/.bin", name);

function step(name, command, args, env = {}) {
  const start = Date.now();
  const { status } = spawnSync(command, args, {
    cwd: root,
    stdio: "inherit",
    env: { ...process.env, NEXT_TELEMETRY_DISABLED: "1", ...env },
  });
  console.log(`${status === 0 ? "ok" : "FAILED"}: ${name}, ${((Date.now() - start) / 1000).toFixed(0)} s`);
  return status === 0;
}
function check(name, command, args) {
  if (step(name, command, args)) passed++;
  else failed++;
}
/** Counts come from the runner's own report; a runner that wrote none has failed. */
function suite(name, command, args, report, count, env) {
  const ok = step(name, command, args, env);
  if (!existsSync(report)) {
    failed++;
    return;
  }
  const { good, bad } = count(JSON.parse(readFileSync(report, "utf8")));
  passed += good;
  failed += bad === 0 && !ok ? 1 : bad;
}

check("format and lint", bin("biome"), ["ci", "--error-on-warnings"]);
// The typed client is made from the description of the HTTP interface, so that tests speak to what is described.
check("client of the described interface", bin("tsx"), ["scripts/client.ts"]);
check("types", bin("tsc"), ["--noEmit", "-p", "."]);
check("layers", process.execPath, ["scripts/layers.mjs"]);
check("habits of the house", process.execPath, ["scripts/house.mjs"]);
check("dead code", bin("knip"), ["--no-config-hints"]);
check("schema is current", bin("tsx"), ["scripts/schema.ts", "--check"]);
check("reference is current", bin("tsx"), ["scripts/reference.ts", "--check"]);
// The headless command is tested as it is run: as a bundle.
await bundle();
const unit = join(results, "unit.json");
suite(
  "unit tests",
  bin("vitest"),
  ["run", "--reporter=default", "--reporter=json", `--outputFile.json=${unit}`],
  unit,
  (r) => ({
    good: r.numPassedTests,
    bad: r.numFailedTests + (r.numFailedTestSuites > 0 && r.numFailedTests === 0 ? 1 : 0),
  }),
);
await buildApp();
const report = join(results, "browser.json");
suite(
  "browser tests",
  bin("playwright"),
  ["test", "--reporter=list,json"],
  report,
  (r) => ({ good: r.stats.expected + r.stats.flaky, bad: r.stats.unexpected }),
  { PLAYWRIGHT_JSON_OUTPUT_FILE: report },
);

console.log(`${passed} passed, ${failed} failed`);
process.exit(failed > 0 ? 1 : 0);
