import { questionNamed } from "@/core/questions";
import { actorOf } from "@/server/actor";
import { adoptWave, changeSchemas, changeTrial, enterStored, putSetpoint } from "@/server/changes";
import { bodyOf, Problem } from "@/server/problem";
import { askStored, bodySchema, isQuestion } from "@/server/questions";
import { route } from "@/server/route";
import { duplicateStudy, restoreStudy } from "@/server/studies";

export const dynamic = "force-dynamic";

interface Context {
  params: Promise<{ id: string; verb: string }>;
}

const unknown = (verb: string): Problem => new Problem("no-verb", { verb });

/** What changes a study, by its name in the address. */
const CHANGES: Record<string, (request: Request, id: string, who: string) => Promise<object>> = {
  waves: async (request, id, who) => adoptWave(id, await bodyOf(request, changeSchemas.waves), who, request.signal),
  trials: async (request, id, who) => changeTrial(id, await bodyOf(request, changeSchemas.trials), who),
  results: async (request, id, who) => enterStored(id, await bodyOf(request, changeSchemas.results), who),
  duplicate: async (_request, id, who) => Response.json(await duplicateStudy(id, who), { status: 201 }),
  restore: (_request, id, who) => restoreStudy(id, who),
};

export const { GET, POST, PUT, PATCH, DELETE } = route<Context>({
  async POST(request, { params }) {
    const { id, verb } = await params;
    const who = actorOf(request);
    if (Object.hasOwn(CHANGES, verb)) return CHANGES[verb](request, id, who);
    if (!isQuestion(verb)) throw unknown(verb);
    const body = await bodyOf(request, bodySchema(questionNamed(verb)));
    const answer = await askStored(id, verb, body, who, request.signal);
    return body.background === true ? Response.json(answer, { status: 202 }) : answer;
  },
  async PUT(request, { params }) {
    const { id, verb } = await params;
    if (verb !== "setpoint") throw unknown(verb);
    return putSetpoint(id, await bodyOf(request, changeSchemas.setpoint), actorOf(request));
  },
});
