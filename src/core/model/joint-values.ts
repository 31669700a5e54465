import type { Settings, Study, Term } from "../study/schema";
import { encoder } from "../terms/model-matrix";
import { termKey } from "../terms/term";
import { isLinear, type LinearSurface } from "./linear-surface";
import type { Surface } from "./surface";

/**
 * Predicted values of several responses at once: the columns of linear models are written down once per point, whatever
 * number of responses reads them; others are asked one by one.
 *
 * @returns a function that fills and answers the same array at each call, in the order of the surfaces
 */
export function jointValues(study: Study, surfaces: readonly Surface[]): (settings: Settings) => Float64Array {
  const linear = surfaces.filter(isLinear);
  const read = linearValues(study, linear);
  if (linear.length === surfaces.length) return read;
  const out = new Float64Array(surfaces.length);
  return (settings) => {
    const values = read(settings);
    let at = 0;
    for (let i = 0; i < surfaces.length; i++) {
      const s = surfaces[i];
      out[i] = isLinear(s) ? values[at++] : s.value(settings);
    }
    return out;
  };
}

function linearValues(study: Study, predictors: readonly LinearSurface[]): (settings: Settings) => Float64Array {
  const covariates = new Set(study.covariates.map((c) => c.id));
  const terms = new Map<string, Term>();
  // Covariates stand at the middle of what was measured, which is coded 0.
  for (const p of predictors)
    for (const { column } of p.basis)
      if (column.term.length > 0 && !column.term.some((id) => covariates.has(id)))
        terms.set(termKey(column.term), column.term);
  const encoded = encoder(study, [...terms.values()]);
  const positions = new Map(encoded.columns.map((c, j) => [`${c.key}|${c.index}`, j]));
  const k = predictors.length;
  const width = encoded.columns.length;
  const coefficients = new Float64Array(k * width);
  predictors.forEach((p, i) => {
    for (const { column, value } of p.basis) {
      const j = positions.get(`${column.key}|${column.index}`);
      if (j !== undefined) coefficients[i * width + j] += value;
    }
  });
  const backs = predictors.map((p) => (p.link.identity ? undefined : p.link.back));
  const row = new Float64Array(width);
  const out = new Float64Array(k);
  return (settings) => {
    encoded.row(settings, row);
    for (let i = 0, c = 0; i < k; i++) {
      let total = 0;
      for (let j = 0; j < width; j++, c++) total += coefficients[c] * row[j];
      const back = backs[i];
      out[i] = back ? back(total) : total;
    }
    return out;
  };
}
