import { removeMark } from "@/server/history";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

export const { GET, POST, PUT, PATCH, DELETE } = route<{ params: Promise<{ id: string; mark: string }> }>({
  async DELETE(_request, { params }) {
    const { id, mark } = await params;
    return removeMark(id, mark);
  },
});
