import * as z from "zod";
import { StudyError } from "../study/error";
import { MOST_RATIO, type Recipe, type Term } from "../study/schema";
import { holdAgainst } from "../study/shape";
import type { TermSetName } from "../terms/candidates";

/** How a form asks for an option: what it is called and the control that takes it. */
export interface OptionControl {
  label: string;
  /** `choice` with `other` takes a number of its own besides what is listed; `percent` is typed as 90 and means 0.9. */
  control: "count" | "text" | "percent" | "switch" | "choice";
  hint?: string;
  /** Value and its words; "" leaves the option out. */
  choices?: readonly (readonly [value: string, words: string])[];
  /** Name and hint of the field for a number of one's own. */
  other?: { words: string; label: string; hint: string };
  /** Asked for only where trials were run already. */
  afterTrials?: boolean;
}

/** The controls of options, by their schema; options without one are not asked for in a form. */
export const controls = z.registry<OptionControl>();

export const TERM_SETS = ["main", "main+2fi", "quadratic"] as const;

/** A set of terms by its name, or the terms themselves. */
export const termList = z
  .union([z.enum(TERM_SETS), z.array(z.array(z.string()).max(6)).max(500)])
  .describe("main, main+2fi, quadratic, or the terms themselves");

/** Most trials, replicates and centre points of a plan. */
export const MOST_PLANNED = 5000;
const count = z.number().int().positive().max(MOST_PLANNED);

/** Options that every family takes. */
export const commonOptions = {
  trials: count.optional().describe("base trials"),
  replicates: count.optional().describe("copies in all"),
  centre: z.number().int().nonnegative().max(MOST_PLANNED).optional().describe("centre points in all"),
  blocks: count.optional().describe("blocks, each a wave"),
  setups: count.optional().describe("most set-ups of the hard factors in all; as the terms need unless said"),
  setupSize: count.optional().describe("most trials of one set-up"),
  eta: z
    .number()
    .nonnegative()
    .max(MOST_RATIO)
    .optional()
    .describe("variance between set-ups over that within them; 1 unless said"),
  randomised: z
    .boolean()
    .optional()
    .describe("random order over all trials, hard factors reset only where they change"),
  seed: z.number().int().nonnegative().optional().describe("seed of the run order, and of a search; 1 unless said"),
  standardOrder: z.boolean().optional().describe("do not randomise"),
  snap: z.boolean().optional().describe("round to settable steps; true unless said"),
};
controls.add(commonOptions.trials, { label: "base trials", control: "count" });
controls.add(commonOptions.blocks, { label: "blocks", control: "count" });

/** Terms a plan is built for, and terms that may be there unasked; families that search take them into the search. */
export const termOptions = {
  terms: termList.optional().describe("terms to build or appraise for: main, main+2fi, quadratic, or a list"),
  possible: termList.optional().describe("terms that may be there unasked"),
};
controls.add(termOptions.possible, {
  label: "kept clear of",
  control: "choice",
  choices: [
    ["main+2fi", "two-factor interactions"],
    ["quadratic", "interactions and bends"],
    ["asked", "the terms asked above"],
  ],
});

/** Options that more than one family takes. */
export const sharedOptions = {
  levels: z
    .string()
    .max(2000)
    .optional()
    .describe('levels of continuous factors, such as "3" or "temp=3,dose=2"')
    .register(controls, { label: "levels", control: "text", hint: "3, or A=3, B=2" }),
  starts: z
    .number()
    .int()
    .positive()
    .max(100_000)
    .optional()
    .describe("random starts of a search")
    .register(controls, { label: "random starts", control: "count", hint: "by size" }),
  keep: z
    .boolean()
    .optional()
    .describe("count the study's own trials as runs already made")
    .register(controls, { label: "count the runs made", control: "switch", afterTrials: true }),
};

/**
 * What a person asks of a family. Counts as in the contract: base runs, copies in all, centre points in all, blocks.
 * What a family takes besides stands in its own file, by name.
 */
export interface PlanOptions {
  family: string;
  trials?: number;
  replicates?: number;
  centre?: number;
  blocks?: number;
  setups?: number;
  setupSize?: number;
  eta?: number;
  randomised?: boolean;
  seed?: number;
  standardOrder?: boolean;
  snap?: boolean;
  /** Said to a family that builds one of several copies: centre points do not fall to all of them alike. */
  unevenCopies?: boolean;
  terms?: TermSetName | Term[];
  possible?: TermSetName | Term[];
  /** Said to a family: set-ups are as many as it takes, nobody has asked for a number. */
  openSetups?: boolean;
  [option: string]: unknown;
}

/** Names of options in a sentence. */

/**
 * Reads what is asked of a family by the options it takes.
 * @throws StudyError `option-not-taken` for one of another family's, `bad-option` for one of a wrong kind
 */
export function readOptions(
  family: { id: string; label: string; options: z.ZodRawShape; uses?: readonly string[] },
  options: PlanOptions,
): PlanOptions {
  const allowed = Object.keys(family.options);
  const known = new Set(["family", ...Object.keys(commonOptions), ...(family.uses ?? []), ...allowed]);
  const stray = Object.keys(options).find((name) => options[name] !== undefined && !known.has(name));
  if (stray !== undefined)
    throw new StudyError(
      "option-not-taken",
      { family: family.label, id: family.id, option: stray, takes: [...allowed, ...(family.uses ?? [])] },
      [stray],
    );
  const read = holdAgainst(z.object(family.options), options);
  if (!read.success) {
    const [issue] = read.error.issues;
    const name = String(issue.path[0]);
    throw new StudyError("bad-option", { option: name, family: family.label, why: issue.message }, [name]);
  }
  return { ...options, ...read.data };
}

/** The options that make a plan again from what a study keeps of it. */
export function optionsOf(recipe: Recipe): PlanOptions {
  const { ranges: _ranges, block: _block, ...rest } = recipe;
  return Object.fromEntries(Object.entries(rest).filter(([, v]) => v !== undefined)) as PlanOptions;
}
