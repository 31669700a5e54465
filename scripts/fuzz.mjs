// npm run fuzz: the fuzzers of the tests with ten times their cases.
import { browser, buildApp, install, tool } from "./lib.mjs";

install();
browser();
await buildApp();
const seed = process.env.FUZZ_SEED ?? String(Date.now() % 1e9);
console.log(`seed ${seed}`);
const { FUZZ_FILES = "5000", FUZZ_CALLS = "400", FUZZ_REQUESTS = "20000" } = process.env;
const env = { FUZZ_SEED: seed, FUZZ_FILES, FUZZ_CALLS, FUZZ_REQUESTS, FUZZ_LONGEST: "5000" };
tool("vitest", ["run", "src/core/fuzz.test.ts", "src/cli/fuzz.test.ts"], { env });
// Under a small heap of the server garbage is collected early, so that what memory grows by is what is kept.
tool("playwright", ["test", "e2e/fuzz.spec.ts", "--no-deps", "--reporter=line"], {
  env: { ...env, TRIALMOOR_E2E_HEAP: "128" },
});
