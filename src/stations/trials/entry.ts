import { messageText } from "@/core/findings";
import { readNumber } from "@/core/formats";
import { doubtOf } from "@/core/operator";
import { type Edit, edit, enterResults, kindOf, measuredValues, type Study, type Trial } from "@/core/study";
import { blockPreview, columnPreview, enterAsRun, readResult } from "./actions";
import type { Column } from "./columns";
import type { Given } from "./import-dialog";
import type { Spot } from "./marked-block";

/** What a text typed into a cell comes to; `ask` where it is doubted and kept only when it is entered once more. */
type Entry = { ok: true; edits: Edit[]; ask?: string } | { ok: false; sentence: string };

export function entryOf(study: Study, trial: Trial, c: Column, text: string): Entry {
  const refuse = (sentence: string): Entry => ({ ok: false, sentence: `Trial ${trial.order}, ${sentence}` });
  if (c.kind === "result") {
    const read = readResult(text, c.response);
    if (!read.ok) return refuse(`${c.response.name}: ${read.sentence}`);
    const odd = measuredValues(read.value, c.response).flatMap((v) => doubtOf(study, c.response, v, trial.id) ?? [])[0];
    return {
      ok: true,
      edits: enterResults(study, [{ trial: trial.id, response: c.id, value: read.value }]),
      ...(odd
        ? {
            ask: `Trial ${trial.order}, ${c.response.name}: ${messageText("doubts", odd)} Enter it once more to keep it.`,
          }
        : {}),
    };
  }
  if (c.kind === "covariate") {
    const value = readNumber(text);
    if (value !== null && typeof value !== "number")
      return refuse(`${c.covariate.name}: “${text}” is not a number; type what was measured.`);
    return { ok: true, edits: [edit(study, ["trials", trial.id, "covariates", c.id], value)] };
  }
  if (c.kind === "note") return { ok: true, edits: [edit(study, ["trials", trial.id, "note"], text)] };
  const read = enterAsRun(study, trial, c.factor, text);
  if (!read.ok) return refuse(read.sentence);
  return {
    ok: true,
    edits: read.edits,
    ...(read.ask === undefined ? {} : { ask: `Trial ${trial.order}: ${read.ask}` }),
  };
}

/** A block without headings pasted on a cell: laid over the rows, or, of one column, all of it for one trial. */
export function blockGiven(
  rows: readonly Trial[],
  columns: readonly Column[],
  at: Spot,
  cells: readonly string[][],
): Given {
  const column = columns[at.col];
  const results = columns.flatMap((c) => (c.kind === "result" ? [c.response] : []));
  const from = column?.kind === "result" ? results.indexOf(column.response) : 0;
  const block = blockPreview(rows, at.row, results, from, cells);
  const several = column?.kind === "result" && kindOf(column.response).several ? column : undefined;
  const whole = several && rows[at.row] && columnPreview(rows[at.row], several.id, cells);
  if (!whole) return { block };
  // More values than trials, or units of one trial: they belong together.
  return { block, whole, together: several.response.several === "units" || cells.length > rows.length - at.row };
}
