import * as z from "zod";
import { parseJson } from "../formats/json";
import { readResultCell } from "../kinds/repeats";
import { kindOf } from "../kinds/results";
import { measuredResponses } from "../study/coding";
import { type Edit, editsOf } from "../study/edit";
import { StudyError } from "../study/error";
import { type EnteredResult, enterResults } from "../study/results";
import {
  MOST_REPEATS,
  type Response,
  type Result,
  resultSchema,
  type Settings,
  type Study,
  settingsSchema,
} from "../study/schema";
import { holdAgainst, issueError } from "../study/shape";
import { checkSettings } from "../study/validate";

/** What came out of one trial: all that is measured, perhaps what was really set, perhaps a remark. */
export const programAnswer = z.strictObject({
  results: z.record(z.string(), resultSchema),
  asRun: settingsSchema.optional(),
  note: z.string().max(4000).optional(),
});
export type ProgramAnswer = z.infer<typeof programAnswer>;

/** Most characters of an answer that are looked at. */
export const MOST_ANSWER = 1_000_000;
/** Most characters of what is shown of a line that cannot be read. */
const SHOWN = 60;

const simple = (s: string): string => s.toLowerCase().replace(/[^\p{L}\p{N}]+/gu, "");
const shown = (text: string): string => (text.length > SHOWN ? `${text.slice(0, SHOWN)}…` : text);

const responseNamed = (study: Study, name: string): Response | undefined => {
  const all = measuredResponses(study);
  return all.find((r) => r.id === name) ?? all.find((r) => simple(r.name) === simple(name));
};

/** Names with values, as lines say them or as an object does. */
type Said = [name: string, value: unknown][];

/** Lines of `name=value`; empty ones are passed over. */
function saidByLines(text: string): Said {
  return text.split(/\r\n|\r|\n/).flatMap((line): Said => {
    if (line.trim() === "") return [];
    const parts = /^([^=]+)=(.*)$/.exec(line);
    if (!parts) throw new StudyError("program-answer.unreadable", { text: shown(line.trim()) });
    return [[parts[1].trim(), parts[2].trim()]];
  });
}

/** A value as it was said: a number, a list of numbers, or text that holds one or several. */
function figuresOf(name: string, said: unknown): number | number[] {
  const refuse = (): never => {
    throw new StudyError("program-answer.not-number", { name, value: shown(JSON.stringify(said) ?? "") }, [name]);
  };
  const one = (v: unknown): number => (typeof v === "number" && Number.isFinite(v) ? v : refuse());
  if (Array.isArray(said)) {
    if (said.length === 0) return refuse();
    if (said.length > MOST_REPEATS)
      throw new StudyError("program-answer.too-many", { name, values: said.length, most: MOST_REPEATS }, [name]);
    return said.map(one);
  }
  if (typeof said !== "string") return one(said);
  const list = /^\[(.*)\]$/.exec(said)?.[1].replace(/,\s*/g, ";");
  const read = readResultCell(list ?? said, "point");
  if (!read.ok || read.value === null) return refuse();
  return Array.isArray(read.value) ? figuresOf(name, read.value) : one(read.value);
}

/** A result that is one whole, as it was said: a number or text as it may be typed, or as a study keeps it. */
function wholeOf(response: Response, said: unknown): Exclude<Result, null> {
  const kind = kindOf(response);
  const kept = typeof said === "object" && said !== null ? resultSchema.safeParse(said) : undefined;
  const read = kept?.success
    ? { ok: true as const, value: kept.data }
    : typeof said === "number" || typeof said === "string"
      ? kind.read(String(said), response, "point")
      : { ok: false as const, fault: kind.unreadable(shown(JSON.stringify(said) ?? "")) };
  const fault = read.ok ? kind.fault(read.value, response) : read.fault;
  if (!read.ok || read.value === null || fault)
    throw new StudyError(
      "counted-result",
      { place: null, response: response.name, fault: fault ?? kind.unreadable("") },
      [response.id],
    );
  return read.value;
}

/** The answer that names and values make: each response of the study once, none besides. */
function answerFrom(study: Study, said: Said): ProgramAnswer["results"] {
  const results = new Map<string, Exclude<Result, null>>();
  for (const [name, value] of said) {
    const response = responseNamed(study, name);
    const known = measuredResponses(study).map((r) => r.id);
    if (!response) throw new StudyError("program-answer.unknown", { name: shown(name), responses: known }, [name]);
    if (results.has(response.id)) throw new StudyError("program-answer.twice", { name: response.name }, [name]);
    results.set(response.id, kindOf(response).several ? figuresOf(response.name, value) : wholeOf(response, value));
  }
  const missing = measuredResponses(study).filter((r) => !results.has(r.id));
  if (missing.length > 0) throw new StudyError("program-answer.missing", { responses: missing.map((r) => r.id) });
  return Object.fromEntries(results);
}

/** An answer with what was really set, which must be settings of this study. */
function withRest(
  study: Study,
  results: ProgramAnswer["results"],
  { asRun, note }: { asRun?: Settings | undefined; note?: string | undefined },
): ProgramAnswer {
  if (asRun) checkSettings(study.factors, asRun, ["asRun"], false);
  return { results, ...(asRun ? { asRun } : {}), ...(note ? { note } : {}) };
}

/**
 * An answer that came as data: `{ results, asRun?, note? }`.
 * @throws StudyError `program-answer` for a response that is unknown, said twice, missing, or no number
 */
export function checkAnswer(study: Study, answer: ProgramAnswer): ProgramAnswer {
  return withRest(study, answerFrom(study, Object.entries(answer.results)), answer);
}

/**
 * Reads what a program printed: lines of `name=value`, or one JSON object, either of the results by response (id or
 * name) or `{ results, asRun?, note? }`. Lists are repeats. Each response must stand there once, and nothing besides:
 * nothing is taken that was not understood.
 * @throws StudyError `program-answer`, saying in one sentence what is wrong
 */
export function readAnswer(study: Study, text: string): ProgramAnswer {
  const body = text.replace(/^\uFEFF/, "").trim();
  if (body === "") throw new StudyError("program-answer.nothing", {});
  if (body.length > MOST_ANSWER) throw new StudyError("program-answer.too-long", { most: MOST_ANSWER });
  if (!/^[{[]/.test(body)) return withRest(study, answerFrom(study, saidByLines(body)), {});
  let said: unknown;
  try {
    said = parseJson(body, { of: "body", name: "" });
  } catch {
    const lines = body.split(/[\r\n]+/).filter((l) => l.trim() !== "");
    if (lines.length > 1 && lines.every((l) => isJson(l))) throw new StudyError("program-answer.two", {});
    throw new StudyError("program-answer.unreadable", { text: shown(body) });
  }
  if (typeof said !== "object" || said === null || Array.isArray(said))
    throw new StudyError("program-answer.unreadable", { text: shown(body) });
  // The language keeps the last of two equal names and says nothing.
  const twice = twiceSaid(body);
  if (twice !== undefined) throw new StudyError("program-answer.twice", { name: shown(twice) }, [twice]);
  const bag = said as Record<string, unknown>;
  const { results, asRun, note, ...more } = bag;
  if (typeof results !== "object" || results === null || Array.isArray(results))
    return withRest(study, answerFrom(study, Object.entries(bag)), {});
  const parsed = holdAgainst(z.strictObject({ ...programAnswer.shape, results: z.unknown() }), {
    results: {},
    asRun,
    note,
    ...more,
  });
  if (!parsed.success) throw issueError(parsed.error.issues[0], bag);
  return withRest(study, answerFrom(study, Object.entries(results)), parsed.data);
}

function isJson(text: string): boolean {
  try {
    JSON.parse(text);
    return true;
  } catch {
    return false;
  }
}

/** A name that stands twice within one object of a text that is JSON. */
function twiceSaid(text: string): string | undefined {
  const open: (Set<string> | undefined)[] = [];
  for (const token of text.matchAll(/"(?:[^"\\]|\\.)*"(\s*:)?|[{}[\]]/g)) {
    if (token[0] === "{") open.push(new Set());
    else if (token[0] === "[") open.push(undefined);
    else if (token[0] === "}" || token[0] === "]") open.pop();
    else if (token[1] !== undefined) {
      const name = JSON.parse(token[0].slice(0, -token[1].length)) as string;
      if (open.at(-1)?.has(name)) return name;
      open.at(-1)?.add(name);
    }
  }
  return undefined;
}

/** What came of a trial: its answer, or why it failed. */
export type Outcome = { trial: string } & ({ answer: ProgramAnswer } | { why: string });

/** Most characters that are kept of why a trial failed. */
const MOST_WHY = 400;

/** The edits that take outcomes in; a trial that does not wait any more is left as it stands. */
export function outcomeEdits(study: Study, outcomes: readonly Outcome[]): Edit[] {
  const trials = new Map(study.trials.map((t) => [t.id, t]));
  const edit = editsOf(study);
  const entered: EnteredResult[] = [];
  const others: Edit[] = [];
  for (const outcome of outcomes) {
    const { trial: id } = outcome;
    const trial = trials.get(id);
    if (trial?.state !== "planned") continue;
    trials.delete(id);
    if ("why" in outcome) {
      others.push(edit(["trials", id, "state"], "failed"));
      others.push(edit(["trials", id, "why"], outcome.why.slice(0, MOST_WHY)));
      continue;
    }
    const { results, asRun, note } = outcome.answer;
    for (const [response, value] of Object.entries(results)) entered.push({ trial: id, response, value });
    for (const [factor, value] of Object.entries(asRun ?? {}))
      others.push(edit(["trials", id, "asRun", factor], value === trial.settings[factor] ? null : value));
    if (note !== undefined) others.push(edit(["trials", id, "note"], note));
  }
  return [...enterResults(study, entered), ...others];
}
