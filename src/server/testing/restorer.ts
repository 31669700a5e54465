// A process of its own that restores a backup, to be killed midway: npx tsx src/server/testing/restorer.ts NAME
import { restoreBackup } from "../backups";
import { database } from "../database";

await database();
console.log("ready");
await restoreBackup(process.argv[2], undefined, "");
console.log("done");
process.exit(0);
