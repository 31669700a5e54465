import { actorOf } from "@/server/actor";
import { restoreBackup, restoreSchema } from "@/server/backups";
import { bodyOf } from "@/server/problem";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

export const { GET, POST, PUT, PATCH, DELETE } = route<{ params: Promise<{ name: string }> }>({
  async POST(request, { params }) {
    const { name } = await params;
    const body = await bodyOf(request, restoreSchema);
    return restoreBackup(name, body.studies, actorOf(request));
  },
});
