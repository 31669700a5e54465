import type * as z from "zod";
import { type Remedy, RULES, type Rule } from "../messages/errors";
import { StudyError } from "./error";

type Path = (string | number)[];

/** "factors[2].low" for people. */
export function pathText(path: ReadonlyArray<string | number>): string {
  return path.reduce<string>(
    (text, part) => (typeof part === "number" ? `${text}[${part}]` : text ? `${text}.${part}` : part),
    "",
  );
}

/** A value as it stands in a sentence. */
export const quoted = (value: unknown): string => {
  const text = JSON.stringify(value);
  return text === undefined ? "nothing" : text.length > 40 ? `${text.slice(0, 37)}…` : text;
};

const isRule = (message: string): message is Rule => (RULES as readonly string[]).includes(message);

/** What would do in place of what an issue found. */
function remedyOf(issue: z.core.$ZodIssue): Remedy {
  switch (issue.code) {
    case "too_small":
      return issue.origin === "string" || issue.origin === "array"
        ? { do: "lengthen", least: Number(issue.minimum) }
        : { do: "raise", bound: Number(issue.minimum), inclusive: issue.inclusive ?? false };
    case "too_big":
      return issue.origin === "string" || issue.origin === "array"
        ? { do: "shorten", most: Number(issue.maximum), text: issue.origin === "string" }
        : { do: "lower", bound: Number(issue.maximum), inclusive: issue.inclusive ?? false };
    case "invalid_value":
      return { do: "choose", of: issue.values.map(String) };
    case "invalid_type":
      return { do: "write", what: issue.expected };
    default:
      return { do: "follow", rule: isRule(issue.message) ? issue.message : "shape" };
  }
}

/** One sentence for a Zod issue: what is wrong, where, what to do. */
export function issueError(issue: z.core.$ZodIssue, input: unknown): StudyError {
  const path = issue.path as Path;
  if (issue.code === "unrecognized_keys") {
    const faultPath = [...path, issue.keys[0]];
    return new StudyError("unknown-key", { place: pathText(faultPath) }, faultPath);
  }
  let value: unknown = input;
  for (const part of path) value = (value as Record<string | number, unknown> | undefined)?.[part];
  const where = pathText(path) || "the file";
  if (issue.code === "invalid_union" && "discriminator" in issue && issue.discriminator) {
    const faultPath = [...path, String(issue.discriminator)];
    return new StudyError("bad-shape.choice", { place: pathText(faultPath), value: quoted(value) }, faultPath);
  }
  if (value === undefined) return new StudyError("missing.key", { place: where }, path);
  return new StudyError("bad-shape.value", { place: where, value: quoted(value), remedy: remedyOf(issue) }, path);
}

/**
 * Holds data that came from outside against a schema.
 * @throws StudyError `unreadable` where the schema itself fails on it
 */
export function holdAgainst<S extends z.ZodType>(schema: S, data: unknown): z.ZodSafeParseResult<z.output<S>> {
  try {
    return schema.safeParse(data);
  } catch (error) {
    // Checks of length compare what pretends to have one, and fail where that is an object of a certain kind.
    if (!(error instanceof TypeError)) throw error;
    throw new StudyError("unreadable", {});
  }
}
