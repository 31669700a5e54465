// npm run passphrase: sets the passphrase by which people sign in to a server that is open to a network.
import { join } from "node:path";
import { bundle, install, root } from "./lib.mjs";

install();
await bundle();
await import(join(root, "dist/passphrase.mjs"));
