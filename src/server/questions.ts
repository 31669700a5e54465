import * as z from "zod";
import { openQuestions, type Question, type QuestionId, questionNamed, readInput } from "@/core/questions";
import { StudyError } from "@/core/study";
import { startInBackground } from "./jobs";
import { compute } from "./pool";
import { Problem } from "./problem";
import { changeStudy, readStudy, requireRevision } from "./studies";

export const revision = z.number().int().positive().describe("the study's revision that the change was made on");

/** The body of a question over HTTP: its input, and where it has them, going to the background and taking it up. */
export function bodySchema(question: Question): z.ZodObject {
  const { takeUp } = question;
  return z.strictObject({
    ...question.input,
    ...(question.long
      ? { background: z.boolean().optional().describe("answer with a job at once, whose answer is read later") }
      : {}),
    ...(takeUp
      ? {
          [takeUp.option]: z.boolean().optional().describe(`${takeUp.summary}; needs revision`),
          revision: revision.optional(),
        }
      : {}),
  });
}

/** Whether a name is that of a question asked over HTTP. */
export const isQuestion = (name: string): name is QuestionId => openQuestions().some((q) => q.id === name);

/**
 * Asks a stored study a question. With the option that takes its answer up the study is changed: its revision is
 * looked at before anything is worked out. What is asked for to be taken up is so whenever a revision comes with it.
 * @throws StudyError `missing`
 * @throws Problem `background-change`
 */
export async function askStored(
  id: string,
  name: QuestionId,
  body: Record<string, unknown>,
  who: string,
  signal?: AbortSignal,
): Promise<object> {
  const question = questionNamed(name);
  const { takeUp } = question;
  const { background, revision: revisionSeen, ...rest } = body;
  const wanted =
    takeUp !== undefined && (rest[takeUp.option] === true || (takeUp.always === true && revisionSeen !== undefined));
  if (takeUp) delete rest[takeUp.option];
  const stored = await readStudy(id);
  const input = readInput(name, rest);
  if (wanted) {
    if (typeof revisionSeen !== "number") throw new StudyError("missing.revision", {}, ["revision"]);
    requireRevision(stored, revisionSeen);
  }
  if (background === true) {
    if (wanted) throw new Problem("background-change", {}, { path: ["background"] });
    return startInBackground(name, id, stored.study, input);
  }
  const answer = await compute(name, id, stored.study, input, signal);
  if (!takeUp || !wanted) return answer as object;
  const edits = takeUp.edits(stored.study, input as never, answer as never);
  return changeStudy(id, revisionSeen as number, edits, takeUp.what(input as never, answer as never), who);
}
