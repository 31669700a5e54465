// npm run unit [-- FILE …]: the unit tests, or those whose files have a part of a name.
import { bundle, called, install, tool } from "./lib.mjs";

install();
called();
await bundle();
tool("vitest", ["run", ...process.argv.slice(2)]);
