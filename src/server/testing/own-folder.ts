import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll } from "vitest";
import { database } from "../database";
import { endThreads } from "../pool";

/** Gives the tests of a file a data folder of their own, and takes it away with them. */
export function ownFolder(name: string): void {
  const folder = mkdtempSync(join(tmpdir(), `trialmoor-${name}-`));
  beforeAll(() => {
    process.env.TRIALMOOR_DATA = folder;
  });
  afterAll(async () => {
    await endThreads();
    await (await database()).close();
    rmSync(folder, { recursive: true, force: true });
  });
}
