// npm run soak: what takes longer than a minute to show. Kills of a server in the midst of its
// migrations, and of one that restores a backup; a thousand trials over a broker whose connections are cut.
import { bundle, called, install, tool } from "./lib.mjs";

install();
called();
await bundle();
tool("vitest", ["run", "src/server/start.test.ts"], { env: { SOAK_KILLS: "50" } });
tool("vitest", ["run", "src/server/backups.test.ts"], { env: { SOAK_KILLS: "30" } });
tool("vitest", ["run", "src/server/rigs", "-t", "connection cut"], { env: { RIG_TRIALS: "1000", RIG_CUTS: "50" } });
