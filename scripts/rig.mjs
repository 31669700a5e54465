// npm run rig: a small broker and a stand-in rig that speaks MQTT, so that rigs can be tried out without one.
import { join } from "node:path";
import { bundle, install, root } from "./lib.mjs";

install();
await bundle();
await import(join(root, "dist/rig.mjs"));
