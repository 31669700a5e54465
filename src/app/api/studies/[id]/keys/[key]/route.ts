import { revokeKey } from "@/server/access/keys";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

export const { GET, POST, PUT, PATCH, DELETE } = route<{ params: Promise<{ id: string; key: string }> }>({
  async DELETE(_request, { params }) {
    const { id, key } = await params;
    return revokeKey(id, key);
  },
});
