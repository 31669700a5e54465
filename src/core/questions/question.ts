import * as z from "zod";
import type { ErrorValues } from "../messages/errors";
import type { Message } from "../messages/message";
import type { Edit } from "../study/edit";
import type { Memo } from "../study/memo";
import type { Study } from "../study/schema";

/** Shapes that have a name of their own in the description of the HTTP interface. */
export const shapes = z.registry<{ id: string }>();

/** What a long computation says while it runs. */
export interface Progress {
  /** Share done, 0 … 1. */
  done: number;
  text: string;
  /** The best so far, where there is one to show. */
  best?: unknown;
}

/** A computation that yields progress; sent `true` it ends early with the best so far. */
export type Steps<A> = Generator<Progress, A, boolean | undefined>;

/** What an answer may change in the study, and the option that asks for it. */
export interface TakeUp<I, A> {
  /** Option of the command (`--adopt`) and key of the HTTP body. */
  option: "adopt" | "store" | "choose";
  summary: string;
  /** It is asked in order to be taken up: the command does so unasked, and HTTP wherever a revision is sent. */
  always?: true;
  edits(study: Study, input: I, answer: A): Edit[];
  /** What the change is called in the history. */
  what(input: I, answer: A): string;
}

/**
 * One question that a study can be asked: a file here and a line in `index.ts`. The command's flags, HTTP bodies,
 * their description and the worker's jobs are read off it; what is left out is filled in `run`, once for all doors.
 */
export interface Question<S extends z.ZodRawShape = z.ZodRawShape, A = unknown> {
  id: string;
  /** One sentence for help and description. */
  summary: string;
  /** Asked by the application's own pages alone. */
  pageOnly?: boolean;
  input: S;
  /** Shape of the answer; every key is always there. */
  answer: z.ZodType;
  /** Needed with this input and left out: what is said of it; undefined when the question can be asked. */
  missing?(input: z.output<z.ZodObject<S>>): Message<ErrorValues> | undefined;
  /** With some inputs it takes seconds: over HTTP it can be sent to the background. */
  long?: boolean;
  /** With this input it takes seconds. */
  heavy(study: Study, input: z.output<z.ZodObject<S>>): boolean;
  /**
   * @param memo where what is derived of the study stands between questions
   * @throws StudyError when the study or the input does not allow an answer
   */
  run(study: Study, input: z.output<z.ZodObject<S>>, memo: Memo): Steps<A>;
  takeUp?: TakeUp<z.output<z.ZodObject<S>>, A>;
  /**
   * A call that works on a shipped example, for help, description and tests, after others whose answers were taken
   * up. Questions of the pages alone have none.
   */
  example?: { study: string; input: z.input<z.ZodObject<S>>; after?: { question: string; input: object }[] };
}

/** Data as it is sent from a thread and printed as JSON: what holds a function has no such type. */
type Plain<T> = T extends (...args: never[]) => unknown
  ? never
  : T extends object
    ? { [K in keyof T]: Plain<T[K]> }
    : T;

/**
 * A question whose parts see their own input and answer; in the table all have one type. An answer that holds a
 * function does not compile: it could not leave its thread.
 */
export const defineQuestion = <S extends z.ZodRawShape, A>(
  question: Question<S, A> & ([A] extends [Plain<A>] ? unknown : { run: "this answer holds a function" }),
): Question<S, A> => question;

/** A short answer as a computation of one step. */
// biome-ignore lint/correctness/useYield: it shares the shape of the long ones.
export function* atOnce<A>(make: () => A): Steps<A> {
  return make();
}

/** How the command reads an option that is not a plain number, word or switch. */
export type FlagKind = "terms" | "settings" | "transform";
/** Shapes of options that the command reads in a way of their own. */
export const flagKinds = z.registry<{ kind: FlagKind }>();

/** An object without its undefined members. */
export const defined = <T extends object>(o: T): { [K in keyof T]: Exclude<T[K], undefined> } =>
  Object.fromEntries(Object.entries(o).filter(([, v]) => v !== undefined)) as {
    [K in keyof T]: Exclude<T[K], undefined>;
  };
