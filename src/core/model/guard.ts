import { clearOf, dot } from "../numerics/least-squares";
import type { Memo } from "../study/memo";
import type { Study, Term } from "../study/schema";
import { termKey } from "../terms/term";
import type { Rule } from "./choosing";
import { clearedColumns } from "./cleared";
import { storedModel } from "./data";
import { type Fit, fitModel } from "./fit";
import { hasSquares } from "./fitted";
import { LEAST_OFFERED, offeredModel, productsOf } from "./offer";
import { onNoise } from "./on-noise";

/** Draws of noise that the same choosing is repeated on. */
const DRAWS = 99;
/** Share of them that a model's predicted R² is to pass. */
const PASSED = 0.95;

/** What the same choosing makes of noise alone. */
export interface OfNoise {
  /** Terms it keeps on average. */
  kept: number;
  /** Predicted R² that 19 of 20 such models stay below; null where any passes through a trial. */
  r2: number | null;
}

/** What a model was chosen by, where it was by a rule: its own last steps, or those of the offer that stands. */
function ruleOf(study: Study, fit: Fit, memo?: Memo): (Rule & { candidates: Term[] }) | undefined {
  const offer = offeredModel(study, fit.response, fit.fitting, memo);
  const key = (terms: readonly Term[]): string => terms.map(termKey).sort().join("|");
  const stored = storedModel(study, fit.response);
  const step = (stored?.steps ?? []).findLast((s) => s.by !== undefined && key(s.terms) === key(fit.terms));
  if (step?.by) {
    const pool = new Map((stored?.steps ?? []).flatMap((s) => s.terms.map((t) => [termKey(t), t] as const)));
    return { by: step.by, alpha: step.alpha ?? 0.05, leastDf: LEAST_OFFERED, candidates: [...pool.values()] };
  }
  if (!offer.by || key(offer.kept) !== key(fit.terms)) return undefined;
  const { by, alpha = 0.05, mains, candidates } = offer;
  return { by, alpha, ...(mains === undefined ? {} : { mains }), leastDf: LEAST_OFFERED, candidates };
}

/**
 * The choosing that led to a model, repeated on seeded draws of noise through the same trials: how many terms noise
 * alone keeps, and how well such models seem to predict (after Freedman 1983).
 *
 * @returns undefined where the model was not chosen by a rule, or its law has no sums of squares
 */
export function ofNoise(study: Study, fit: Fit, memo?: Memo): OfNoise | undefined {
  if (!hasSquares(fit.model.summary) || fit.model.exact) return undefined;
  const rule = ruleOf(study, fit, memo);
  if (!rule || rule.candidates.length === 0) return undefined;
  const all = fitModel(study, fit.response, { terms: [], ...fit.fitting }, memo);
  const cleared = clearedColumns(study, all, rule.candidates);
  if (cleared.dead.some(Boolean)) return undefined;
  const { n, vectors, baseLeverage } = cleared;
  const base = productsOf(rule.candidates, cleared);
  let terms = 0;
  const r2: number[] = [];
  for (const { kept, count, noise } of onNoise(all, cleared, base, rule, DRAWS)) {
    terms += count;
    const basis: Float64Array[] = [];
    const left = noise.slice();
    const leverage = baseLeverage.slice();
    kept.forEach((is, t) => {
      if (!is) return;
      for (const j of base.columns[t]) {
        const v = vectors[j].slice();
        for (let pass = 0; pass < 2; pass++) clearOf(basis, v);
        const length = Math.sqrt(dot(v, v));
        for (let i = 0; i < n; i++) {
          v[i] /= length;
          leverage[i] += v[i] * v[i];
        }
        basis.push(v);
      }
    });
    for (let pass = 0; pass < 2; pass++) clearOf(basis, left);
    let press = 0;
    for (let i = 0; i < n; i++) press += (left[i] / (1 - leverage[i])) ** 2;
    r2.push(1 - press / dot(noise, noise));
  }
  r2.sort((a, b) => a - b);
  const passed = r2[Math.ceil(PASSED * (DRAWS + 1)) - 1];
  return { kept: terms / DRAWS, r2: Number.isFinite(passed) ? passed : null };
}
