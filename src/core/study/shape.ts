import type * as z from "zod";
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

/** What would do in place of what an issue found, in words that end a sentence. */
function remedy(issue: z.core.$ZodIssue): string {
  const than = (inclusive: boolean | undefined, least: string, above: string): string => (inclusive ? least : above);
  switch (issue.code) {
    case "too_small":
      if (issue.origin === "string" || issue.origin === "array") return `it needs at least ${issue.minimum}`;
      return `give a number ${than(issue.inclusive, "of at least", "above")} ${issue.minimum}`;
    case "too_big":
      if (issue.origin === "string") return `it may hold at most ${issue.maximum} characters`;
      if (issue.origin === "array") return `it may hold at most ${issue.maximum}`;
      return `give a number ${than(issue.inclusive, "of at most", "below")} ${issue.maximum}`;
    case "invalid_value":
      return issue.values.length === 1
        ? `it must be ${String(issue.values[0])}`
        : `choose one of ${issue.values.map(String).join(", ")}`;
    case "invalid_type": {
      const wanted: Record<string, string> = {
        int: "a whole number",
        number: "a number",
        string: "text",
        boolean: "true or false",
        array: "a list",
        object: "an object",
        record: "an object",
      };
      return `it must be ${wanted[issue.expected] ?? issue.expected}`;
    }
    default:
      return `${issue.message.charAt(0).toLowerCase()}${issue.message.slice(1)}`;
  }
}

/** One sentence for a Zod issue: what is wrong, where, what to do. */
export function issueError(issue: z.core.$ZodIssue, input: unknown, code = "bad-shape"): StudyError {
  const path = issue.path as Path;
  if (issue.code === "unrecognized_keys") {
    const faultPath = [...path, issue.keys[0]];
    return new StudyError(
      "unknown-key",
      `${pathText(faultPath)} is not a key this version knows; remove it or correct its spelling.`,
      faultPath,
    );
  }
  let value: unknown = input;
  for (const part of path) value = (value as Record<string | number, unknown> | undefined)?.[part];
  const where = pathText(path) || "the file";
  if (issue.code === "invalid_union" && "discriminator" in issue && issue.discriminator) {
    const faultPath = [...path, String(issue.discriminator)];
    return new StudyError(
      code,
      `${pathText(faultPath)} is ${quoted(value)}, which is not one of the choices there.`,
      faultPath,
    );
  }
  if (value === undefined) return new StudyError("missing", `${where} is missing; it is needed.`, path);
  return new StudyError(code, `${where} is ${quoted(value)}: ${remedy(issue)}.`, path);
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
    throw new StudyError("unreadable", "Something in it has a “length” and is no text or list; write it as one.");
  }
}
