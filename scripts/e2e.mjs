// npm run e2e [-- NAME …]: the browser tests, or those whose files have a part of a name; options go to the runner.
import { browser, buildApp, called, install, tool } from "./lib.mjs";

install();
browser();
called();
await buildApp();
// A file that is to have the server to itself does not first run all the others.
tool("playwright", ["test", ...(process.argv.length > 2 ? ["--no-deps"] : []), ...process.argv.slice(2)]);
