// Runs the headless command from its bundle, which is made anew when its sources changed.
import { join } from "node:path";
import { bundle, install, root } from "./lib.mjs";

install();
await bundle();
process.env.TRIALMOOR_EXAMPLES ??= join(root, "examples");
await import(join(root, "dist/headless.mjs"));
