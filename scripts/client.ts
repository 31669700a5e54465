/**
 * Writes the typed client that the tests use, from the description of the HTTP interface: e2e/api.gen.d.ts, made anew
 * before each run.
 */
import { spawnSync } from "node:child_process";
import { copyFileSync, mkdtempSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { openApi } from "../src/server/openapi";

const folder = mkdtempSync(join(tmpdir(), "trialmoor-client-"));
const description = join(folder, "openapi.json");
const made = join(folder, "api.d.ts");
writeFileSync(description, JSON.stringify(openApi()));
// Run in its own package, whose TypeScript is the one the generator was written for.
const { status, stderr } = spawnSync(
  process.execPath,
  ["node_modules/openapi-typescript/bin/cli.js", description, "--output", made, "--default-non-nullable", "false"],
  { encoding: "utf8", cwd: join(import.meta.dirname, "../tools/client") },
);
if (status !== 0) {
  console.error(stderr);
  process.exit(1);
}
copyFileSync(made, join(import.meta.dirname, "../e2e/api.gen.d.ts"));
