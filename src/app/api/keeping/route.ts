import { backupFolder } from "@/server/backups";
import { keepingChange, readKeeping, setKeeping } from "@/server/keeping";
import { bodyOf } from "@/server/problem";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

export const { GET, POST, PUT, PATCH, DELETE } = route({
  GET: async () => ({ ...(await readKeeping()), folder: await backupFolder() }),
  PATCH: async (request) => ({
    ...(await setKeeping(await bodyOf(request, keepingChange))),
    folder: await backupFolder(),
  }),
});
