// npm start: installs what is missing, builds when stale, serves on 127.0.0.1. The server migrates and seeds as it
// starts.
import { spawn } from "node:child_process";
import { join } from "node:path";
import { buildApp, install, root, warm } from "./lib.mjs";

const port = Number(process.env.PORT ?? 4270);
if (!Number.isInteger(port) || port < 1 || port > 65535) {
  console.error(`PORT is ${process.env.PORT}; give a number from 1 to 65535.`);
  process.exit(2);
}
install();
await buildApp();
const server = spawn(process.execPath, [join(root, "dist/serve.mjs")], {
  cwd: root,
  stdio: ["ignore", "pipe", "inherit"],
  env: { ...process.env, PORT: String(port), NEXT_TELEMETRY_DISABLED: "1", NODE_ENV: "production" },
});
server.stdout.on("data", async (chunk) => {
  if (String(chunk).includes("Trialmoor is at"))
    await warm(`http://127.0.0.1:${port}`).catch((error) =>
      console.error(`The server started but did not answer: ${error.message}`),
    );
  process.stdout.write(chunk);
});
for (const signal of ["SIGINT", "SIGTERM"]) process.on(signal, () => server.kill(signal));
server.on("exit", (code) => process.exit(code ?? 0));
