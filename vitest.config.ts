import { fileURLToPath } from "node:url";
import { defineConfig } from "vitest/config";

/** Tests that put a module in another's place, and those that start threads and servers, have a process to themselves. */
const APART = ["src/**/*toy.test.ts", "src/{cli,server}/**/*.test.ts"];

export default defineConfig({
  resolve: { alias: { "@": fileURLToPath(new URL("./src", import.meta.url)) } },
  test: {
    setupFiles: ["src/core/testing/setup.ts"],
    // Simulations take ten to fifteen seconds on a quiet machine, and not every machine is: time is to run out only where
    // nothing comes any more.
    testTimeout: 240_000,
    hookTimeout: 120_000,
    maxWorkers: 2,
    // npm run coverage: of the core, by its own tests; 90 % of the branches are the aim.
    coverage: {
      include: ["src/core/**/*.ts"],
      exclude: ["src/core/testing/**", "src/core/**/*.test.ts"],
      reporter: ["text-summary", "html"],
      reportsDirectory: "node_modules/.cache/trialmoor-coverage",
    },
    projects: [
      { extends: true, test: { name: "shared", include: ["src/**/*.test.ts"], exclude: APART, isolate: false } },
      { extends: true, test: { name: "apart", include: APART } },
    ],
  },
});
