import { readBackup, removeBackup } from "@/server/backups";
import { SQLITE } from "@/server/guard";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

export const { GET, POST, PUT, PATCH, DELETE } = route<{ params: Promise<{ name: string }> }>({
  async GET(_request, { params }) {
    const { name } = await params;
    const { bytes, stream } = await readBackup(name);
    return new Response(stream, {
      headers: {
        "content-type": SQLITE,
        "content-length": String(bytes),
        "content-disposition": `attachment; filename="${name}"`,
      },
    });
  },
  DELETE: async (_request, { params }) => removeBackup((await params).name),
});
