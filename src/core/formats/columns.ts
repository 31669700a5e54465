import { kindOf } from "../kinds/results";
import { readNumber } from "../numerics/read-number";
import { measuredResponses } from "../study/coding";
import { StudyError } from "../study/error";
import { hardFactors } from "../study/roles";
import { type Factor, MOST_REPEATS, type Setting, type Study } from "../study/schema";
import { isOrderHeading, readHeading, repeatNumbers } from "./heading";

/** What a column of a sheet is taken for. */
export type ColumnUse =
  | { to: "id" | "order" | "standard" | "setup" | "note" | "ignored" }
  | { to: "setting" | "asRun" | "covariate"; id: string }
  | { to: "result"; id: string; repeat: number }
  /** Pieces or exposure that a share or a count was counted on. */
  | { to: "of"; id: string };

const simple = (s: string): string =>
  s
    .toLowerCase()
    .replace(/[([].*?[)\]]/g, "")
    .replace(/[^\p{L}\p{N}]+/gu, "");

/** What each heading of a sheet stands for: ids first, then names with or without units. */
export function matchColumns(study: Study, header: readonly string[]): ColumnUse[] {
  const named = new Set(
    [...study.factors, ...study.responses, ...study.covariates].flatMap((x) => [simple(x.id), simple(x.name)]),
  );
  const uses = header.map((raw): ColumnUse => {
    const text = raw.trim();
    const lower = text.toLowerCase();
    if (["order", "run", "run order", "trial"].includes(lower)) return { to: "order" };
    // What is of the study itself keeps its name.
    if (isOrderHeading(text) && !named.has(simple(text))) return { to: "order" };
    if (["standard", "std", "standard order"].includes(lower)) return { to: "standard" };
    if (["setup", "set-up", "set up"].includes(lower) && hardFactors(study).length > 0) return { to: "setup" };
    if (["note", "notes", "remark"].includes(lower)) return { to: "note" };
    if (lower === "trial id") return { to: "id" };
    if (/\(as run\)$/i.test(text)) {
      const id = text.replace(/\s*\(as run\)$/i, "");
      const f = study.factors.find((x) => x.id === id || simple(x.name) === simple(id));
      return f ? { to: "asRun", id: f.id } : { to: "ignored" };
    }
    const response = measuredResponses(study).find((r) => r.id === text || simple(r.name) === simple(text));
    if (response) return { to: "result", id: response.id, repeat: 0 };
    const on = /^(.*\S)\s+of$/i.exec(text.replace(/\s*[([].*?[)\]]\s*$/, ""))?.[1];
    const counted =
      on === undefined
        ? undefined
        : measuredResponses(study).find((r) => !kindOf(r).several && (r.id === on || simple(r.name) === simple(on)));
    if (counted) return { to: "of", id: counted.id };
    const factor = study.factors.find((f) => f.id === text || simple(f.name) === simple(text));
    if (factor) return { to: "setting", id: factor.id };
    const covariate = study.covariates.find((c) => c.id === text || simple(c.name) === simple(text));
    if (covariate) return { to: "covariate", id: covariate.id };
    // A number behind a response's name counts its repeats.
    const { name, repeat } = readHeading(text);
    const repeated = measuredResponses(study).find((r) => r.id === name || simple(r.name) === simple(name));
    return repeated && repeat > 0 ? { to: "result", id: repeated.id, repeat } : { to: "ignored" };
  });
  return numbered(uses);
}

type ResultUse = ColumnUse & { to: "result" };

/** Columns of one response are its repeats: each gets a number of its own, so that none is written over another. */
function numbered(uses: readonly ColumnUse[]): ColumnUse[] {
  const byResponse = new Map<string, ResultUse[]>();
  for (const use of uses) if (use.to === "result") byResponse.set(use.id, [...(byResponse.get(use.id) ?? []), use]);
  const numbers = new Map<ColumnUse, number>();
  for (const group of byResponse.values()) {
    if (group.length === 1) continue;
    const given = repeatNumbers(group.map((u) => u.repeat));
    group.forEach((use, i) => {
      numbers.set(use, given[i]);
    });
  }
  return uses.map((use): ColumnUse => {
    if (use.to !== "result") return use;
    const repeat = numbers.get(use) ?? use.repeat;
    return repeat > MOST_REPEATS ? { to: "ignored" } : { ...use, repeat };
  });
}

/** Columns of a sheet that are read as repeats of one response. */
export interface ReadRepeats {
  response: string;
  columns: string[];
}

/** Which columns are read as repeats, so that it can be said before anything is taken. */
export function repeatsRead(header: readonly string[], uses: readonly ColumnUse[]): ReadRepeats[] {
  const columns = new Map<string, string[]>();
  uses.forEach((use, i) => {
    if (use.to === "result") columns.set(use.id, [...(columns.get(use.id) ?? []), header[i].trim()]);
  });
  return [...columns].flatMap(([response, read]) => (read.length > 1 ? [{ response, columns: read }] : []));
}

/** Where a column's cells would go; two columns of one target would overwrite each other. Results never do. */
const targetOf = (use: ColumnUse): string | undefined =>
  use.to === "ignored" || use.to === "result" ? undefined : "id" in use ? `${use.to} ${use.id}` : use.to;

/**
 * Refuses two columns that would be written to the same place, as identical headings are.
 * @throws StudyError `same-heading`, naming both columns and the way out
 */
export function refuseSameHeadings(header: readonly string[], uses: readonly ColumnUse[]): void {
  const first = new Map<string, number>();
  for (const [i, use] of uses.entries()) {
    const target = targetOf(use);
    if (target === undefined) continue;
    const before = first.get(target);
    if (before === undefined) {
      first.set(target, i);
      continue;
    }
    const [a, b] = [header[before].trim(), header[i].trim()];
    throw new StudyError("same-heading", { headings: [a, b], columns: [before + 1, i + 1] }, [header[i]]);
  }
}

/** A column of a sheet that nothing is taken from, and why. */
export interface UntakenColumn {
  column: string;
  why: string;
}

/** The columns that nothing is taken from; one without a heading goes by its place. */
export const untakenOf = (
  rows: readonly string[][],
  uses: readonly ColumnUse[],
  taken: readonly ColumnUse["to"][],
): UntakenColumn[] =>
  uses.flatMap((use, i): UntakenColumn[] => {
    if (taken.includes(use.to)) return [];
    const heading = rows[0][i].trim();
    if (heading === "" && rows.every((r) => (r[i] ?? "") === "")) return [];
    return [
      {
        column: heading === "" ? `column ${i + 1} (no heading)` : heading,
        why: use.to === "ignored" ? "it names nothing of this study" : "it is not taken from a sheet like this",
      },
    ];
  });

/** A cell as a setting of a factor; undefined where it is none. */
export function readSetting(factor: Factor, text: string, decimal: "." | ","): Setting | undefined {
  if (factor.kind === "categorical") return factor.levels.find((l) => l.toLowerCase() === text.toLowerCase());
  const v = readNumber(text, decimal);
  return v === null ? undefined : v;
}

/** The number of a set-up; undefined where the cell is none. */
export function setupNumber(cell: string, decimal: "." | ","): number | undefined {
  const v = readNumber(cell, decimal) ?? 0;
  return Number.isInteger(v) && v >= 1 ? v : undefined;
}
