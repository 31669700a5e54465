// npm run soak: what takes longer than a minute to show. Kills of a server in the midst of its migrations, of one that
// restores a backup, and of a command that runs trials, a thousand in all; a thousand trials over a broker whose
// connections are cut; and every study that the simulations of the tests have.
import { bundle, called, install, tool } from "./lib.mjs";

install();
called();
await bundle();
const KILLS = Number(process.env.SOAK_KILLS ?? 1000);
const kills = (share) => ({ env: { SOAK_KILLS: String(Math.round(share * KILLS)) } });
tool("vitest", ["run", "src/server/start.test.ts", "-t", "killed"], kills(0.5));
tool("vitest", ["run", "src/server/backups.test.ts", "-t", "killed"], kills(0.3));
tool("vitest", ["run", "src/cli/run.test.ts", "-t", "killed"], kills(0.2));
tool("vitest", ["run", "src/server/rigs", "-t", "connection cut"], { env: { RIG_TRIALS: "1000", RIG_CUTS: "50" } });
tool("vitest", ["run", "src/core/model", "src/core/findings"], { env: { SOAK_SIMULATIONS: "1" } });
