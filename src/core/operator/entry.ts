import * as z from "zod";
import { type Edit, edit } from "../study/edit";
import { StudyError } from "../study/error";
import { enterResults } from "../study/results";
import { resultSchema, type Study, settingSchema, setUpSchema, TRIAL_STATES, type Trial } from "../study/schema";

const id = z.string().min(1).max(64);

/**
 * One thing noted beside the machine, with what stood in its cell as it was noted: a cell that holds neither that nor
 * the new value was changed elsewhere meanwhile.
 */
export const benchEntry = z.discriminatedUnion("cell", [
  z.strictObject({
    cell: z.literal("results"),
    of: id.describe("the response"),
    value: resultSchema,
    was: resultSchema,
  }),
  z.strictObject({
    cell: z.literal("asRun"),
    of: id.describe("the factor"),
    value: settingSchema.nullable(),
    was: settingSchema.nullable(),
  }),
  z.strictObject({ cell: z.literal("note"), value: z.string().max(4000), was: z.string().max(4000) }),
  z.strictObject({
    cell: z.literal("state"),
    value: z.enum(TRIAL_STATES),
    was: z.enum(TRIAL_STATES),
    reason: z.string().max(400).optional().describe("why it was skipped or failed"),
  }),
  z.strictObject({ cell: z.literal("setUp"), value: setUpSchema.nullable(), was: setUpSchema.nullable() }),
]);
/** One cell that an operator writes: what stood there and what stands there then. */
export type BenchEntry = z.infer<typeof benchEntry>;

/**
 * A trial by its id.
 * @throws StudyError `unknown-id`
 */
export function trialOf(study: Study, trial: string): Trial {
  const found = study.trials.find((t) => t.id === trial);
  if (!found) throw new StudyError("unknown-id.trial-of-study", { id: trial }, ["trial"]);
  return found;
}

/** What stands in an entry's cell now, as an entry would say it. */
export function standingAt(study: Study, trial: string, entry: BenchEntry): BenchEntry["was"] {
  const t = trialOf(study, trial);
  switch (entry.cell) {
    case "results":
      return t.results[entry.of] ?? null;
    case "asRun":
      return t.asRun?.[entry.of] ?? null;
    case "note":
      return t.note;
    case "state":
      return t.state;
    case "setUp":
      return t.setUp ?? null;
  }
}

/** The edits that take an entry in. */
export function entryEdits(study: Study, trial: string, entry: BenchEntry): Edit[] {
  switch (entry.cell) {
    case "results":
      return enterResults(study, [{ trial, response: entry.of, value: entry.value }]);
    case "asRun":
      return [edit(study, ["trials", trial, "asRun", entry.of], entry.value)];
    case "state": {
      const state = edit(study, ["trials", trial, "state"], entry.value);
      return entry.reason ? [state, edit(study, ["trials", trial, "why"], entry.reason)] : [state];
    }
    default:
      return [edit(study, ["trials", trial, entry.cell], entry.value)];
  }
}
