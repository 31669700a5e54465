import { actorOf } from "@/server/actor";
import { createSchema, listQuery } from "@/server/operations";
import { bodyOf, queryOf } from "@/server/problem";
import { route } from "@/server/route";
import { createFromExample, createStudy, listDeleted, listStudies } from "@/server/studies";

export const dynamic = "force-dynamic";

export const { GET, POST, PUT, PATCH, DELETE } = route({
  GET: async (request) => (queryOf(request, listQuery).deleted === "1" ? listDeleted() : listStudies()),
  POST: async (request) => {
    const body = await bodyOf(request, createSchema);
    const made =
      "example" in body
        ? await createFromExample(body.example, actorOf(request), body.questionOnly)
        : await createStudy(body.title, actorOf(request));
    return Response.json(made, { status: 201 });
  },
});
