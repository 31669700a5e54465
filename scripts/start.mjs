// npm start: installs what is missing, builds when stale, serves on 127.0.0.1. The server migrates and seeds as it
// starts.
import { spawn } from "node:child_process";
import { join } from "node:path";
import { buildApp, install, root, warm } from "./lib.mjs";

install();
await buildApp();
const server = spawn(process.execPath, [join(root, "dist/serve.mjs")], {
  cwd: root,
  stdio: ["ignore", "pipe", "inherit"],
  env: { ...process.env, NEXT_TELEMETRY_DISABLED: "1", NODE_ENV: "production" },
});
server.stdout.on("data", async (chunk) => {
  const [address] = /http:\/\/\S+/.exec(String(chunk)) ?? [];
  if (address)
    await warm(address).catch((error) => console.error(`The server started but did not answer: ${error.message}`));
  process.stdout.write(chunk);
});
for (const signal of ["SIGINT", "SIGTERM"]) process.on(signal, () => server.kill(signal));
server.on("exit", (code) => process.exit(code ?? 0));
