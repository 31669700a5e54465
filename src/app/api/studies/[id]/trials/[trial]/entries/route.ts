import { actorOf } from "@/server/actor";
import { enterAtBench, entrySchema } from "@/server/entries";
import { bodyOf, keyOf } from "@/server/problem";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

export const { GET, POST, PUT, PATCH, DELETE } = route<{ params: Promise<{ id: string; trial: string }> }>({
  async POST(request, { params }) {
    const { id, trial } = await params;
    return enterAtBench(id, trial, await bodyOf(request, entrySchema), actorOf(request), keyOf(request));
  },
});
