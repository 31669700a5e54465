import * as z from "zod";
import { storedModel } from "../model/data";
import { termList } from "../plans/options";
import { MOST_RATIO, type Study, type Term, transformSchema } from "../study/schema";
import { activeTerms, termSet } from "../terms/candidates";
import { alphabetOf, checkTerms, inModelOrder, termKey } from "../terms/term";
import { flagKinds } from "./question";

/** Inputs and pieces of answers that several questions share. */

export const settings = z.record(z.string(), z.union([z.number(), z.string()]));
flagKinds.add(settings, { kind: "settings" });
flagKinds.add(termList, { kind: "terms" });
flagKinds.add(transformSchema, { kind: "transform" });

export const response = z.string().describe("id of the response");
export const seed = z.number().int().nonnegative().optional().describe("seed; 1 unless said");
export const hierarchy = z
  .enum(["strong", "weak", "off"])
  .optional()
  .describe("whether an interaction needs both its main effects, one, or none");
export const block = z.boolean().optional().describe("waves as blocks in the model; true unless said");
export const curvature = z
  .boolean()
  .optional()
  .describe("the centre as a column of the model, where corners and centre alone were run; true unless said");
export const eta = z
  .number()
  .nonnegative()
  .max(MOST_RATIO)
  .optional()
  .describe("variance between set-ups over that within, where set-ups are too few to tell it; as planned unless said");
export const alpha = z.number().gt(0).lt(1).optional().describe("level of the test; 1 − confidence unless said");
export const positive = z.number().positive();

/** The terms that a list stands for, checked against the study. */
/** Large enough for an answer to take more than an instant: over 12 factors, or over 500 trials. */
export const isLarge = (study: Study): boolean => study.factors.length > 12 || study.trials.length > 500;

export const termsOf = (study: Study, given: z.output<typeof termList>): Term[] =>
  typeof given === "string" ? termSet(study, given) : checkTerms(study, given);

/** Terms that may be there besides those of the model; none named twice. */
export function besides(terms: readonly Term[], possible: readonly Term[]): Term[] {
  const keys = new Set(terms.map(termKey));
  return possible.filter((t) => !keys.has(termKey(t)));
}

/** Where the terms of an appraisal come from. */
export type TermsFrom = "asked" | "models" | "plan";

/** Terms of all stored models together, of factors in use; none where nothing is stored. */
export function modelTerms(study: Study): Term[] {
  const all = study.responses.flatMap((r) => storedModel(study, r.id)?.terms ?? []);
  return inModelOrder(alphabetOf(study), activeTerms(study, all));
}

// Pieces of answers.

export const term = z.array(z.string());
export const number = z.number().nullable();
export const interval = z.tuple([z.number(), z.number()]).nullable();
export const assumed = z
  .number()
  .optional()
  .describe("ratio of variances between and within set-ups that intervals rest on, where it is assumed");
export const scatter = z
  .string()
  .optional()
  .describe("the response whose model says how far one trial scatters here; without it all trials scatter alike");
export const reading = z.strictObject({
  kind: z.enum(["finding", "caution", "next step"]),
  text: z.string(),
  evidence: z.string(),
});
