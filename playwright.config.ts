import { tmpdir } from "node:os";
import { join } from "node:path";
import { defineConfig } from "@playwright/test";

// Another run may stand beside this one.
const port = Number(process.env.TRIALMOOR_E2E_PORT ?? 4291);
// Workers read this file again: they find the folder that the server was given.
process.env.TRIALMOOR_E2E_DATA ??= join(tmpdir(), `trialmoor-e2e-${Date.now()}`);

const ALONE = /(server|fuzz|home)\.spec\.ts$/;

export default defineConfig({
  testDir: "e2e",
  workers: 3,
  // Tests that measure the server, fill it or list all that is in it have it to themselves, after the others.
  projects: [
    { name: "beside", testIgnore: ALONE },
    { name: "alone", testMatch: ALONE, workers: 1, dependencies: ["beside"] },
  ],
  // A test fails by what it finds: time runs out only where nothing comes any more.
  timeout: 1_200_000,
  expect: { timeout: 300_000 },
  outputDir: "test-results/browser",
  use: {
    // What led to a failure is kept; pictures of every step, of pages too, would cost a fourth of the whole time. The
    // page as it stood in the end is kept in any case.
    trace: { mode: "retain-on-failure", screenshots: false, snapshots: false, sources: false },
    baseURL: `http://127.0.0.1:${port}`,
    viewport: { width: 1280, height: 800 },
    contextOptions: { reducedMotion: "reduce" },
    launchOptions: {
      executablePath: "/usr/bin/chromium",
      args: [
        "--no-sandbox",
        "--disable-gpu",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
      ],
    },
  },
  webServer: {
    command: "node dist/serve.mjs",
    url: `http://127.0.0.1:${port}/api/health`,
    timeout: 180_000,
    env: {
      TRIALMOOR_DATA: process.env.TRIALMOOR_E2E_DATA,
      PORT: String(port),
      NODE_ENV: "production",
      // What is asked is answered however slow the machine is just now.
      TRIALMOOR_ANSWER_SECONDS: "300",
      NEXT_TELEMETRY_DISABLED: "1",
      LOG_LEVEL: "warn",
      ...(process.env.TRIALMOOR_E2E_HEAP
        ? { NODE_OPTIONS: `--max-old-space-size=${process.env.TRIALMOOR_E2E_HEAP}` }
        : {}),
    },
  },
});
