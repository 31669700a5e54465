// npm run dev: the application as it is written, on a data folder of its own, compiled anew at every change.
import { spawn } from "node:child_process";
import { join } from "node:path";
import { bundle, install, root } from "./lib.mjs";

install();
await bundle();
const port = process.env.PORT ?? "4270";
const server = spawn(join(root, "node_modules/.bin/next"), ["dev", "-H", "127.0.0.1", "-p", port], {
  cwd: root,
  stdio: "inherit",
  env: {
    ...process.env,
    NEXT_TELEMETRY_DISABLED: "1",
    TRIALMOOR_DATA: process.env.TRIALMOOR_DATA ?? join(root, "data/dev"),
  },
});
for (const signal of ["SIGINT", "SIGTERM"]) process.on(signal, () => server.kill(signal));
server.on("exit", (code) => process.exit(code ?? 0));
