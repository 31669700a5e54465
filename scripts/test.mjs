// npm test: installs what is missing, then every check and test there is. Ends with what failed, in a few lines, and
// closes with "N passed, N failed".
import { spawnSync } from "node:child_process";
import { existsSync, mkdirSync, readFileSync, rmSync } from "node:fs";
import { join, relative } from "node:path";
import { stripVTControlCharacters } from "node:util";
import { runChecks } from "./checks.mjs";
import { browser, buildApp, bundle, called, install, root } from "./lib.mjs";

install();
browser();
called();
const results = join(root, "test-results");
rmSync(results, { recursive: true, force: true });
mkdirSync(results, { recursive: true });

let passed = 0;
/** What failed, a line each. */
const failed = [];
const bin = (name) => join(root, "node_modules/.bin", name);

/** Counts come from the runner's own report; a runner that wrote none has failed. */
function suite(name, command, args, report, count, env = {}) {
  const start = Date.now();
  const { status } = spawnSync(command, args, {
    cwd: root,
    stdio: "inherit",
    env: { ...process.env, NEXT_TELEMETRY_DISABLED: "1", ...env },
  });
  console.log(`${status === 0 ? "ok" : "FAILED"}: ${name}, ${((Date.now() - start) / 1000).toFixed(0)} s`);
  if (!existsSync(report)) {
    failed.push(`${name}: nothing was reported`);
    return;
  }
  const { good, bad } = count(JSON.parse(readFileSync(report, "utf8")));
  passed += good;
  failed.push(...bad);
  if (bad.length === 0 && status !== 0) failed.push(`${name}: exit code ${status}`);
}
const firstLine = (text = "") => stripVTControlCharacters(text).split("\n")[0];

function unitTests({ numPassedTests, testResults }) {
  const bad = testResults.flatMap(({ name, status, message, assertionResults }) => {
    const lines = assertionResults
      .filter((a) => a.status === "failed")
      .map((a) => `${relative(root, name)}: ${a.fullName}: ${firstLine(a.failureMessages[0])}`);
    return lines.length === 0 && status === "failed" ? [`${relative(root, name)}: ${firstLine(message)}`] : lines;
  });
  return { good: numPassedTests, bad };
}

function browserTests({ stats, suites, errors }) {
  const bad = [...new Set(errors.map((e) => `browser tests: ${firstLine(e.message)}`))];
  const look = ({ suites: inner = [], specs = [] }) => {
    for (const s of inner) look(s);
    for (const { ok, file, line, title, tests } of specs) {
      if (ok) continue;
      const result = tests.flatMap((t) => t.results).find((r) => r.error);
      bad.push(`e2e/${file}:${line}: ${title}: ${firstLine(result?.error.message)}`);
      const trace = result?.attachments.find((a) => a.name === "trace")?.path;
      if (trace) bad.push(`  npx playwright show-trace ${relative(root, trace)}`);
    }
  };
  for (const s of suites) look(s);
  return { good: stats.expected, bad };
}

// Next's build keeps one processor busy at a time; the checks have the other.
const checks = runChecks();
await buildApp();
const checked = await checks;
passed += checked.passed;
failed.push(...checked.failed);
// The headless command and the server are tested as they are run: as bundles.
await bundle();
const unit = join(results, "unit.json");
suite(
  "unit tests",
  bin("vitest"),
  ["run", "--reporter=default", "--reporter=json", `--outputFile.json=${unit}`],
  unit,
  unitTests,
);
const report = join(results, "browser.json");
suite("browser tests", bin("playwright"), ["test", "--reporter=list,json"], report, browserTests, {
  PLAYWRIGHT_JSON_OUTPUT_FILE: report,
});

if (failed.length > 0) {
  const { FC_SEED, FUZZ_SEED } = process.env;
  console.log(`\nFailed (seeds: FC_SEED ${FC_SEED ?? "as written"}, FUZZ_SEED ${FUZZ_SEED ?? "as written"}):`);
  for (const line of failed) console.log(`  ${line}`);
}
console.log(`${passed} passed, ${failed.filter((line) => !line.startsWith("  ")).length} failed`);
process.exit(failed.length > 0 ? 1 : 0);
