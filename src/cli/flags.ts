import { type Command, InvalidArgumentError, Option } from "commander";
import * as z from "zod";
import { type FlagKind, flagKinds, type Question } from "@/core/questions";
import type { Study, Transform } from "@/core/study";
import { readSettings, readTerms, TERM_SETS } from "./input";

/** What a flag's text means to its question; lists of terms need the study. */
type Reader = (study: Study, value: unknown) => unknown;

const number = (text: string): number => {
  const v = Number(text);
  if (text.trim() === "" || !Number.isFinite(v)) throw new InvalidArgumentError("give a number");
  return v;
};
const whole = (text: string): number => {
  const v = number(text);
  if (!Number.isInteger(v) || v < 0) throw new InvalidArgumentError("give a whole number");
  return v;
};
/** A whole number within bounds. */
export const countFrom =
  (least: number, most: number) =>
  (text: string): number => {
    const v = whole(text);
    if (v < least || v > most) throw new InvalidArgumentError(`give a whole number from ${least} to ${most}`);
    return v;
  };
const list = (text: string): string[] => text.split(",").map((t) => t.trim());
const numberOrWord = (text: string): string | number =>
  Number.isFinite(Number(text)) && text.trim() !== "" ? Number(text) : text;
const SCALES = ["none", "log", "sqrt", "inverse", "logit", "asin-sqrt"] as const;
const transform = (text: string): Transform => {
  const named = SCALES.find((n) => n === text);
  if (named) return named;
  const power = /^power[:=](.+)$/.exec(text);
  if (power) return { power: number(power[1]) };
  throw new InvalidArgumentError(`give one of ${SCALES.join(", ")} or power:0.3`);
};

/** "keepEfficiency" as it is typed: "keep-efficiency". */
export const flagName = (key: string): string => key.replace(/[A-Z]/g, (c) => `-${c.toLowerCase()}`);

/** A schema without what makes it optional, and the words that describe it. */
function inner(schema: z.ZodType): { schema: z.ZodType; optional: boolean; description: string } {
  let now = schema;
  let optional = false;
  let { description } = now;
  while (now instanceof z.ZodOptional) {
    optional = true;
    now = now.unwrap() as z.ZodType;
    description ??= now.description;
  }
  return { schema: now, optional, description: description ?? "" };
}

/** Switches that are on unless said: their flag turns them off. */
const ON_UNLESS_SAID = new Set(["block", "curvature", "snap"]);

const READERS: Record<FlagKind, { parse?: (text: string) => unknown; read?: (flag: string) => Reader }> = {
  terms: {
    read: () => (study, v) => (TERM_SETS.includes(v as never) ? v : readTerms(study, String(v))),
  },
  settings: { read: (flag) => (_, v) => readSettings(String(v), flag) },
  transform: { parse: transform },
};

/** Adds one option of a question to its command; answers how its value is read, where that needs more than its text. */
function addFlag(command: Command, key: string, schema: z.ZodType): Reader | undefined {
  const { schema: innermost, optional, description } = inner(schema);
  const name = flagName(key);
  const kind = flagKinds.get(innermost as never)?.kind;
  if (innermost instanceof z.ZodBoolean) {
    command.option(ON_UNLESS_SAID.has(key) ? `--no-${name}` : `--${name}`, description);
    return undefined;
  }
  const option = new Option(`--${name} <${kind === "settings" ? "json" : "value"}>`, description);
  let read: Reader | undefined;
  if (kind) {
    const { parse, read: reader } = READERS[kind];
    if (parse) option.argParser(parse);
    read = reader?.(`--${name}`);
  } else if (innermost instanceof z.ZodEnum) option.choices(innermost.options.map(String));
  else if (innermost instanceof z.ZodNumber) option.argParser(innermost.format === "safeint" ? whole : number);
  else if (innermost instanceof z.ZodArray) option.argParser(list);
  else if (innermost instanceof z.ZodUnion) option.argParser(numberOrWord);
  if (!optional) option.makeOptionMandatory();
  command.addOption(option);
  return read;
}

/** Adds every option of a question; answers what turns the values given into its input. */
export function addFlags(
  command: Command,
  question: Question,
  leave: readonly string[] = [],
): (study: Study, values: Record<string, unknown>) => Record<string, unknown> {
  const readers = new Map<string, Reader | undefined>();
  for (const [key, schema] of Object.entries(question.input))
    if (!leave.includes(key)) readers.set(key, addFlag(command, key, schema as z.ZodType));
  return (study, values) => {
    const input: Record<string, unknown> = {};
    for (const [key, read] of readers) {
      const value = values[key];
      // A switch that is on unless said says nothing until it is turned off.
      if (value === undefined || (value === true && ON_UNLESS_SAID.has(key))) continue;
      input[key] = read ? read(study, value) : value;
    }
    return input;
  };
}
