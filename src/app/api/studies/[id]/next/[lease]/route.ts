import { giveBack } from "@/server/leases";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

export const { GET, POST, PUT, PATCH, DELETE } = route<{ params: Promise<{ id: string; lease: string }> }>({
  async DELETE(_request, { params }) {
    const { id, lease } = await params;
    return giveBack(id, lease);
  },
});
