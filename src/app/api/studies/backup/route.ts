import { route } from "@/server/route";
import { backup } from "@/server/studies";

export const dynamic = "force-dynamic";

export const { GET, POST, PUT, PATCH, DELETE } = route({
  GET: async () => {
    const file = await backup();
    return new Response(JSON.stringify(file, null, 2), {
      headers: {
        "content-type": "application/json",
        "content-disposition": `attachment; filename="trialmoor-backup-${file.at.slice(0, 10)}.json"`,
      },
    });
  },
});
