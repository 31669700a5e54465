import { actorOf } from "@/server/actor";
import { changeSchemas, putModel } from "@/server/changes";
import { bodyOf } from "@/server/problem";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

interface Context {
  params: Promise<{ id: string; response: string }>;
}

export const { GET, POST, PUT, PATCH, DELETE } = route<Context>({
  async PUT(request, { params }) {
    const { id, response } = await params;
    return putModel(id, response, await bodyOf(request, changeSchemas.model), actorOf(request));
  },
});
