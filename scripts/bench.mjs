// npm run bench: prints the speed figures as a table. Not part of the tests: timings belong to the machine they ran on.
import { join } from "node:path";
import { browser, buildApp, install, root, run, tool } from "./lib.mjs";

install();
browser();
await buildApp();
for (const name of ["core", "plans", "subsets", "setpoint"]) {
  const out = join(root, `dist/bench-${name}.cjs`);
  tool("esbuild", [
    `bench/${name}.ts`,
    "--bundle",
    "--platform=node",
    "--format=cjs",
    `--outfile=${out}`,
    "--log-level=error",
  ]);
  run(process.execPath, [out]);
}
run(process.execPath, [join(root, "bench/browser.mjs")]);
run(process.execPath, [join(root, "bench/server.mjs")]);
run(process.execPath, [join(root, "bench/compare.mjs")]);
