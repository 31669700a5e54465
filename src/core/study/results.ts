import { type Edit, edit } from "./edit";
import type { Result, Study } from "./schema";

/** One result to be entered; null clears it. */
export interface EnteredResult {
  trial: string;
  response: string;
  value: Result;
}

/** Entering a result marks a waiting trial as run; clearing the last one of a trial marks it as waiting again. */
export function enterResults(study: Study, entered: readonly EnteredResult[]): Edit[] {
  const edits: Edit[] = [];
  const byTrial = new Map<string, EnteredResult[]>();
  for (const e of entered) byTrial.set(e.trial, [...(byTrial.get(e.trial) ?? []), e]);
  for (const [id, values] of byTrial) {
    const trial = study.trials.find((t) => t.id === id);
    const results = { ...trial?.results };
    for (const { response, value } of values) {
      edits.push(edit(study, ["trials", id, "results", response], value));
      results[response] = value;
    }
    const any = Object.values(results).some((v) => v !== null && v !== undefined);
    if (any && trial?.state === "planned") edits.push(edit(study, ["trials", id, "state"], "done"));
    if (!any && trial?.state === "done") edits.push(edit(study, ["trials", id, "state"], "planned"));
  }
  return edits;
}
