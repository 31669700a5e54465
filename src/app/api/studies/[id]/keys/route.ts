import { keySchema, listKeys, makeKey } from "@/server/access/keys";
import { reachedAt } from "@/server/access/opening";
import { originOf, sessionOf } from "@/server/access/session";
import { bodyOf, Problem } from "@/server/problem";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

export const { GET, POST, PUT, PATCH, DELETE } = route<{ params: Promise<{ id: string }> }>({
  async GET(_request, { params }) {
    return listKeys((await params).id);
  },
  async POST(request, { params }) {
    const { name } = await bodyOf(request, keySchema);
    if (!sessionOf(request.headers)?.opened) throw new Problem("this-machine-only", {});
    return Response.json(await makeKey((await params).id, name, reachedAt(originOf(request.headers)).origin), {
      status: 201,
    });
  },
});
