import { isNumeric } from "../study/coding";
import { activeFactors } from "../study/roles";
import type { CategoricalFactor, Settings, Study } from "../study/schema";
import { type Column, contrastRows } from "../terms/model-matrix";
import type { Quadratic } from "./surface";

/** One coefficient of a polynomial in coded factors with the column it multiplies. */
export interface Coefficient {
  column: Column;
  value: number;
}

/** One factor's part of a column: a power of its coded value, or one contrast of a category. */
export interface ColumnPart {
  id: string;
  power: number;
  /** Which contrast of a category; −1 for numbers. */
  contrast: number;
}

/** What a column is a product of, factor by factor. */
export function columnParts(study: Pick<Study, "factors">, column: Column): ColumnPart[] {
  const categories = new Map(
    study.factors.filter((f): f is CategoricalFactor => f.kind === "categorical").map((f) => [f.id, f]),
  );
  const parts = new Map<string, ColumnPart>();
  // Columns of a term run through its categories' contrasts, those of the last id fastest.
  let rest = column.index;
  for (const id of [...column.term].reverse()) {
    const category = categories.get(id);
    if (category) {
      const width = category.levels.length - 1;
      parts.set(id, { id, power: 1, contrast: rest % width });
      rest = Math.floor(rest / width);
    } else parts.set(id, { id, power: (parts.get(id)?.power ?? 0) + 1, contrast: -1 });
  }
  return [...parts.values()].reverse();
}

/**
 * The polynomial in the numeric factors that a model speaks of, categories standing as in `at`.
 * @returns null when a term is of higher than second order in them
 */
export function quadraticAt(study: Study, basis: readonly Coefficient[], settings: Settings): Quadratic | null {
  const spoken = new Set(basis.flatMap((c) => c.column.term));
  const ids = activeFactors(study)
    .filter((f) => isNumeric(f) && spoken.has(f.id))
    .map((f) => f.id);
  const k = ids.length;
  const out: Quadratic = { ids, constant: 0, linear: new Float64Array(k), square: new Float64Array(k * k) };
  const covariates = new Set(study.covariates.map((c) => c.id));
  for (const { column, value } of basis) {
    // Covariates stand at the middle of what was measured, which is coded 0.
    if (column.term.some((id) => covariates.has(id))) continue;
    let factor = value;
    const numeric: string[] = [];
    for (const part of columnParts(study, column)) {
      const f = study.factors.find((x) => x.id === part.id);
      if (f?.kind === "categorical")
        factor *= contrastRows(f.levels.length, "sum")[Math.max(0, f.levels.indexOf(String(settings[f.id])))][
          part.contrast
        ];
      else for (let i = 0; i < part.power; i++) numeric.push(part.id);
    }
    const [i, j] = numeric.map((id) => ids.indexOf(id));
    if (numeric.length === 0) out.constant += factor;
    else if (numeric.length === 1) out.linear[i] += factor;
    else if (numeric.length === 2) {
      out.square[i * k + j] += factor / 2;
      out.square[j * k + i] += factor / 2;
    } else return null;
  }
  return out;
}
