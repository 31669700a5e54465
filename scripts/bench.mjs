// npm run bench: prints the speed figures as a table. Not part of the tests: timings belong to the machine they ran on.
import { join } from "node:path";
import { browser, buildApp, install, root, run, tool } from "./lib.mjs";

install();
browser();
await buildApp();
tool("esbuild", ["bench/core.ts", "--bundle", "--platform=node", "--format=cjs", "--outfile=dist/bench.cjs", "--log-level=error"]);
run(process.execPath, [join(root, "dist/bench.cjs")]);
run(process.execPath, [join(root, "bench/browser.mjs")]);
