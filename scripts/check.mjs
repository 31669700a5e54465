// npm run check: what somebody waits for at every change. Format, lint, types and floors, then the unit tests that
// stand in the folders of what was changed; `npm run check -- --static` leaves these out.
import { dirname } from "node:path";
import { runChecks } from "./checks.mjs";
import { bundle, install, silent, tool } from "./lib.mjs";

install();
const { failed } = await runChecks(true);
if (failed.length > 0) {
  console.log(`Failed: ${failed.join(", ")}`);
  process.exit(1);
}
if (process.argv.includes("--static")) process.exit(0);
const told = (...args) => silent("git", args).split("\n").filter(Boolean);
const open = [...told("diff", "--name-only", "HEAD"), ...told("ls-files", "--others", "--exclude-standard")];
// Where nothing is open, the last commit is what was changed.
const changed = open.length > 0 ? open : told("diff", "--name-only", "HEAD~1");
const folders = [...new Set(changed.filter((f) => /^src\/.*\.tsx?$/.test(f)).map(dirname))];
if (folders.length === 0) console.log("No source was changed: there is no unit test to run.");
else {
  await bundle();
  const tests = told("ls-files", "-co", "--exclude-standard", "src").filter(
    (f) => f.endsWith(".test.ts") && folders.includes(dirname(f)),
  );
  console.log(`${tests.length} files of tests stand beside what was changed`);
  if (tests.length > 0) tool("vitest", ["run", ...tests]);
}
