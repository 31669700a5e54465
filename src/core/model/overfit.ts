import { seededRandom } from "../numerics/random";
import { significance } from "../study/coding";
import { Memo } from "../study/memo";
import type { Study } from "../study/schema";
import { parentsPresent } from "../terms/candidates";
import { termKey } from "../terms/term";
import { type Fit, fitModel } from "./fit";
import { FULL_LEVERAGE } from "./fitted";

/** How much R² may lie above predicted R² before anything is asked. */
const LEAST_GAP = 0.2;
/** Vectors that the gap is ranked among, and the share of them that it must pass. */
const VECTORS = 499;
const RARE = 0.95;

/**
 * Whether R² lies farther above predicted R² than it would if the model were true: ranked among draws of normal errors
 * about what it fits, on rows of one variance. Near saturation predicted R² is low whatever the terms are.
 */
function gapIsRare(fit: Fit): boolean {
  const { model, trials, summary } = fit;
  const n = trials.length;
  const { leverages } = model;
  if (summary.residualDf < 1 || Array.from(leverages).some((h) => h > FULL_LEVERAGE)) return false;
  const column = (values: number[]) => model.whiten({ rows: n, cols: 1, data: Float64Array.from(values) }).data;
  const one = column(Array(n).fill(1));
  const weight = one.reduce((t, v) => t + v * v, 0);
  const fitted = column(trials.map((t) => (model.ownErrors ? model.link.forward(t.predicted) : t.predicted)));
  /** R² less predicted R² of values whose errors about the model are given. */
  const gap = (values: Float64Array, left: ArrayLike<number>): number => {
    let squares = 0;
    let along = 0;
    let press = 0;
    let rss = 0;
    for (let i = 0; i < n; i++) {
      squares += values[i] ** 2;
      along += values[i] * one[i];
      press += (left[i] / (1 - leverages[i])) ** 2;
      rss += left[i] ** 2;
    }
    return (press - rss) / (squares - along ** 2 / weight);
  };
  const own = Float64Array.from(model.residuals("scaled"), (e) => e ?? 0);
  const s = Math.sqrt(own.reduce((t, e) => t + e * e, 0) / summary.residualDf);
  if (!(s > 0)) return false;
  const observed = gap(
    fitted.map((v, i) => v + own[i]),
    own,
  );
  const random = seededRandom(1);
  let below = 0;
  for (let k = 0; k < VECTORS; k++) {
    const errors = Float64Array.from({ length: n }, () => s * random.normal());
    // As the law's errors vary: `left` brings them back to one variance.
    const drawn = model.correlated?.(errors) ?? errors.map((e, i) => e / one[i]);
    const left = model.left(drawn, true);
    if (!left) return false;
    if (
      gap(
        fitted.map((v, i) => v + errors[i]),
        left,
      ) < observed
    )
      below++;
  }
  return below >= RARE * VECTORS;
}

/** Whether predicted R² rises where a term that is not clear of noise leaves, alone or with all such. */
function leavingHelps(study: Study, fit: Fit, memo: Memo): boolean {
  const alpha = significance(study);
  const quiet = new Set(
    fit.anova.flatMap((r) => (r.source === "term" && r.term && (r.p ?? 0) >= alpha ? [termKey(r.term)] : [])),
  );
  const keeps = (out: ReadonlySet<string>): boolean => {
    const terms = fit.terms.filter((t) => !out.has(termKey(t)));
    const kept = new Set(terms.map(termKey));
    if (!terms.every((t) => parentsPresent(t, kept, "strong"))) return false;
    const smaller = fitModel(study, fit.response, { terms, ...fit.fitting }, memo);
    return (smaller.summary.r2Predicted ?? Number.NEGATIVE_INFINITY) > (fit.summary.r2Predicted ?? 0);
  };
  return [...quiet].some((key) => keeps(new Set([key]))) || (quiet.size > 1 && keeps(quiet));
}

/** Whether a model follows its trials better than it will follow the next, and leaving terms out would mend it. */
export function followsTooClosely(study: Study, fit: Fit, memo = new Memo()): boolean {
  const { r2, r2Predicted } = fit.summary;
  if (r2 === null || r2Predicted === null || r2 - r2Predicted <= LEAST_GAP) return false;
  return gapIsRare(fit) && leavingHelps(study, fit, memo);
}
