import { measuredResponses } from "../study/coding";
import { StudyError } from "../study/error";
import { type Factor, MOST_REPEATS, type Setting, type Study } from "../study/schema";
import { readNumber } from "./csv";

/** What a column of a sheet is taken for. */
export type ColumnUse =
  | { to: "id" | "order" | "standard" | "note" | "ignored" }
  | { to: "setting" | "asRun" | "covariate"; id: string }
  | { to: "result"; id: string; repeat: number };

const simple = (s: string): string =>
  s
    .toLowerCase()
    .replace(/[([].*?[)\]]/g, "")
    .replace(/[^\p{L}\p{N}]+/gu, "");

/** What each heading of a sheet stands for: ids first, then names with or without units. */
export function matchColumns(study: Study, header: readonly string[]): ColumnUse[] {
  return header.map((raw): ColumnUse => {
    const text = raw.trim();
    const lower = text.toLowerCase();
    if (["order", "run", "run order", "trial"].includes(lower)) return { to: "order" };
    if (["standard", "std", "standard order"].includes(lower)) return { to: "standard" };
    if (["note", "notes", "remark"].includes(lower)) return { to: "note" };
    if (lower === "trial id") return { to: "id" };
    if (/\(as run\)$/i.test(text)) {
      const id = text.replace(/\s*\(as run\)$/i, "");
      const f = study.factors.find((x) => x.id === id || simple(x.name) === simple(id));
      return f ? { to: "asRun", id: f.id } : { to: "ignored" };
    }
    const repeat = /^(.*)\.(\d{1,3})$/.exec(text);
    const response = measuredResponses(study).find((r) => r.id === text || simple(r.name) === simple(text));
    if (response) return { to: "result", id: response.id, repeat: 0 };
    if (repeat) {
      const r = measuredResponses(study).find((x) => x.id === repeat[1] || simple(x.name) === simple(repeat[1]));
      if (r && Number(repeat[2]) <= MOST_REPEATS) return { to: "result", id: r.id, repeat: Number(repeat[2]) };
    }
    const factor = study.factors.find((f) => f.id === text || simple(f.name) === simple(text));
    if (factor) return { to: "setting", id: factor.id };
    const covariate = study.covariates.find((c) => c.id === text || simple(c.name) === simple(text));
    if (covariate) return { to: "covariate", id: covariate.id };
    return { to: "ignored" };
  });
}

/** Where a column's cells would go; two columns of one target would overwrite each other. */
const targetOf = (use: ColumnUse): string | undefined =>
  use.to === "ignored"
    ? undefined
    : use.to === "result"
      ? `result ${use.id} ${Math.max(1, use.repeat)}`
      : "id" in use
        ? `${use.to} ${use.id}`
        : use.to;

/**
 * Refuses two columns that would be written to the same place, as identical headings are.
 * @throws StudyError `same-heading`, naming both columns and the way out
 */
export function refuseSameHeadings(study: Study, header: readonly string[], uses: readonly ColumnUse[]): void {
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
    const response = use.to === "result" ? study.responses.find((r) => r.id === use.id) : undefined;
    throw new StudyError(
      "same-heading",
      { headings: [a, b], columns: [before + 1, i + 1], response: response?.name ?? null },
      [header[i]],
    );
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
