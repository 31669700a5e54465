// npm run soak: what takes longer than a minute to show. Kills of a server in the midst of its
// migrations, and of one that restores a backup.
import { bundle, install, tool } from "./lib.mjs";

install();
await bundle();
tool("vitest", ["run", "src/server/start.test.ts"], { env: { SOAK_KILLS: "50" } });
tool("vitest", ["run", "src/server/backups.test.ts"], { env: { SOAK_KILLS: "30" } });
