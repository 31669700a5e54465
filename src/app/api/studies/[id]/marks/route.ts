import { actorOf } from "@/server/actor";
import { addMark, listMarks, markSchema } from "@/server/history";
import { bodyOf } from "@/server/problem";
import { route } from "@/server/route";
import { readStudy } from "@/server/studies";

export const dynamic = "force-dynamic";

export const { GET, POST, PUT, PATCH, DELETE } = route<{ params: Promise<{ id: string }> }>({
  async GET(_request, { params }) {
    const { id } = await readStudy((await params).id);
    return listMarks(id);
  },
  async POST(request, { params }) {
    const { id } = await params;
    return Response.json(await addMark(id, await bodyOf(request, markSchema), actorOf(request)), { status: 201 });
  },
});
