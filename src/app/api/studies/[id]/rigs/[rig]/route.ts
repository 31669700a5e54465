import { bodyOf } from "@/server/problem";
import { orderRig, rigOrder } from "@/server/rigs/order";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

export const { GET, POST, PUT, PATCH, DELETE } = route<{ params: Promise<{ id: string; rig: string }> }>({
  async PUT(request, { params }) {
    const { id, rig } = await params;
    return orderRig(id, rig, await bodyOf(request, rigOrder));
  },
});
