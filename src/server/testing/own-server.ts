import { spawn } from "node:child_process";
import { request } from "node:https";

/** A server that a test starts for itself. */
export interface OwnServer {
  base: string;
  /** Ends it, politely or at once. */
  stop(signal?: NodeJS.Signals): Promise<void>;
}

/** How long a start may take, in milliseconds. */
const START_MS = 120_000;

/** Whether a server answers its health check; its certificate may be its own. */
const healthy = (base: string): Promise<boolean> =>
  base.startsWith("https")
    ? new Promise((resolve) =>
        request(`${base}/api/health`, { rejectUnauthorized: false }, (answer) => {
          answer.resume();
          resolve(answer.statusCode === 200);
        })
          .on("error", () => resolve(false))
          .end(),
      )
    : fetch(`${base}/api/health`).then(
        (r) => r.ok,
        () => false,
      );

/** Starts a server on a folder and waits until it answers. */
export async function ownServer(
  port: number,
  folder: string,
  env: Record<string, string> = {},
  base = `http://127.0.0.1:${port}`,
): Promise<OwnServer> {
  const server = spawn(process.execPath, ["dist/serve.mjs"], {
    stdio: "ignore",
    env: {
      ...process.env,
      PORT: String(port),
      NODE_ENV: "production",
      TRIALMOOR_DATA: folder,
      LOG_LEVEL: "silent",
      ...env,
    },
  });
  const until = Date.now() + START_MS;
  while (!(await healthy(base))) {
    if (Date.now() > until) throw new Error(`The server at ${base} does not answer.`);
    await new Promise((again) => setTimeout(again, 50));
  }
  return {
    base,
    stop: (signal = "SIGTERM") =>
      new Promise((resolve) => {
        if (server.exitCode !== null || server.signalCode !== null) {
          resolve();
          return;
        }
        server.once("exit", () => resolve());
        server.kill(signal);
      }),
  };
}
