import { answering, bodyOf, Problem } from "@/server/problem";
import { duplicateStudy, restoreStudy } from "@/server/studies";
import { runVerb, type VerbName, verbSchemas } from "@/server/verbs";
import { whoOf } from "@/server/who";

export const dynamic = "force-dynamic";

interface Context {
  params: Promise<{ id: string; verb: string }>;
}

export const POST = (request: Request, { params }: Context): Promise<Response> =>
  answering(async () => {
    const { id, verb } = await params;
    if (verb === "duplicate") return Response.json(await duplicateStudy(id, whoOf(request)), { status: 201 });
    if (verb === "restore") return restoreStudy(id, whoOf(request));
    if (!(verb in verbSchemas) || verb === "edits") throw new Problem(404, "no-verb", `A study has no “${verb}”.`);
    const name = verb as VerbName;
    return runVerb(id, name, await bodyOf(request, verbSchemas[name]), whoOf(request));
  });
