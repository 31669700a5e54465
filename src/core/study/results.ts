import { type Edit, editsOf } from "./edit";
import { normaliseResult } from "./measured";
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
  const edit = editsOf(study);
  const trials = new Map(study.trials.flatMap((t) => (byTrial.has(t.id) ? [[t.id, t]] : [])));
  for (const [id, values] of byTrial) {
    const trial = trials.get(id);
    const results = { ...trial?.results };
    for (const { response, value: said } of values) {
      const about = study.responses.find((r) => r.id === response);
      const value = about ? normaliseResult(about, said) : said;
      edits.push(edit(["trials", id, "results", response], value));
      results[response] = value;
    }
    const any = Object.values(results).some((v) => v !== null && v !== undefined);
    if (any && trial?.state === "planned") edits.push(edit(["trials", id, "state"], "done"));
    if (!any && trial?.state === "done") edits.push(edit(["trials", id, "state"], "planned"));
  }
  return edits;
}
