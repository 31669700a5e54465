import { createSchema } from "@/server/openapi";
import { answering, bodyOf } from "@/server/problem";
import { createFromExample, createStudy, listStudies } from "@/server/studies";
import { whoOf } from "@/server/who";

export const dynamic = "force-dynamic";

export const GET = (): Promise<Response> => answering(listStudies);

export const POST = (request: Request): Promise<Response> =>
  answering(async () => {
    const body = await bodyOf(request, createSchema);
    const made =
      "example" in body
        ? await createFromExample(body.example, whoOf(request), body.questionOnly)
        : await createStudy(body.title, whoOf(request));
    return Response.json(made, { status: 201 });
  });
