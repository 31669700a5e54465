import * as z from "zod";
import { StudyError } from "../study/error";
import { Memo } from "../study/memo";
import type { Study } from "../study/schema";
import { holdAgainst, issueError } from "../study/shape";
import { appraise } from "./appraise";
import { fit } from "./fit";
import { follow } from "./follow";
import { influence } from "./influence";
import { detail, evidence, summaries, trade } from "./page";
import { plan } from "./plan";
import { power } from "./power";
import { predict } from "./predict";
import type { Question, Steps } from "./question";
import { rig } from "./rig";
import { setpoint } from "./setpoint";
import { subsets } from "./subsets";
import { surface } from "./surface";
import { verdict } from "./verdict";

/** Every question a study can be asked. A new one is a file beside these and a line here. */
export const questions = {
  plan,
  appraise,
  fit,
  subsets,
  predict,
  setpoint,
  surface,
  power,
  follow,
  influence,
  verdict,
  rig,
  summaries,
  trade,
  evidence,
  detail,
};

/** A question by its id. */
export type QuestionId = keyof typeof questions;
type Of<Q extends QuestionId> = (typeof questions)[Q];
/** What a question is asked with. */
export type QuestionInput<Q extends QuestionId> = z.input<z.ZodObject<Of<Q>["input"]>>;
/** What it answers. */
export type QuestionAnswer<Q extends QuestionId> = ReturnType<Of<Q>["run"]> extends Steps<infer A> ? A : never;

/**
 * The question of an id, its parts as one type for whatever reads the table.
 * @throws StudyError `unknown-question`
 */
export function questionNamed(id: string): Question {
  if (!Object.hasOwn(questions, id))
    throw new StudyError("unknown-question", { id, questions: Object.keys(questions) }, ["question"]);
  return questions[id as QuestionId] as unknown as Question;
}

/** A question that stands at every door, with its example. */
export type OpenQuestion = Question & Required<Pick<Question, "example">>;

/** Questions that stand at every door. */
export const openQuestions = (): OpenQuestion[] =>
  Object.keys(questions)
    .map(questionNamed)
    .filter((q): q is OpenQuestion => !q.pageOnly && q.example !== undefined);

/**
 * Input of a question, checked; what it does not know is refused with its place.
 * @throws StudyError `missing`
 */
export function readInput<Q extends QuestionId>(id: Q, input: unknown): z.output<z.ZodObject<Of<Q>["input"]>> {
  const question = questionNamed(id);
  const parsed = holdAgainst(z.strictObject(question.input), input);
  if (!parsed.success) throw issueError(parsed.error.issues[0], input);
  const missing = question.missing?.(parsed.data);
  if (missing !== undefined) throw StudyError.of(missing, [id]);
  return parsed.data as z.output<z.ZodObject<Of<Q>["input"]>>;
}

/**
 * Asks a study a question: the same pure function in page worker, server thread and command. Each question holds an
 * `example` that help, description and tests ask.
 *
 * @param memo where what is derived of the study stands between questions
 * @example finish(ask("plan", study, { family: "fraction", trials: 16, centre: 3 }))
 * @throws StudyError for an unknown question, a bad input, or when the study does not allow an answer
 */
export function ask<Q extends QuestionId>(
  id: Q,
  study: Study,
  input: unknown,
  memo = new Memo(),
): Steps<QuestionAnswer<Q>> {
  return questionNamed(id).run(study, readInput(id, input), memo) as Steps<QuestionAnswer<Q>>;
}

/** Runs a computation to its end in one go. */
export function finish<T>(steps: Iterator<unknown, T, undefined>): T {
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
  }
}
