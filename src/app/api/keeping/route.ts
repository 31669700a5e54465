import { backupFolder } from "@/server/backups";
import { bodyOf } from "@/server/problem";
import { readRetention, retentionChange, setRetention } from "@/server/retention";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

export const { GET, POST, PUT, PATCH, DELETE } = route({
  GET: async () => ({ ...(await readRetention()), folder: await backupFolder() }),
  PATCH: async (request) => ({
    ...(await setRetention(await bodyOf(request, retentionChange))),
    folder: await backupFolder(),
  }),
});
