import type { CategoricalFactor, Study, Term } from "../study/schema";
import { contrastRows } from "./model-matrix";

/** What a term's columns add up to at one combination of its categories' levels. */
export interface LevelRow {
  /** The level of each category of the term, in term order. */
  levels: string[];
  /** By column of the term. */
  row: number[];
}

/** The categories of a term, in term order. */
export const categoriesOf = (study: Pick<Study, "factors">, term: Term): CategoricalFactor[] =>
  term.flatMap((id) => study.factors.filter((f): f is CategoricalFactor => f.id === id && f.kind === "categorical"));

/**
 * Every combination of levels of a term's categories with what its sum-to-zero columns stand for there, the last level
 * among them, which has no column of its own. One row of one column for a term without categories.
 */
export function levelRows(study: Pick<Study, "factors">, term: Term): LevelRow[] {
  return categoriesOf(study, term).reduce<LevelRow[]>(
    (rows, f) => {
      const contrasts = contrastRows(f.levels.length, "sum");
      return rows.flatMap(({ levels, row }) =>
        f.levels.map((level, i) => ({
          levels: [...levels, level],
          row: row.flatMap((v) => contrasts[i].map((c) => v * c)),
        })),
      );
    },
    [{ levels: [], row: [1] }],
  );
}
