import { detectable } from "../appraisal/power";
import { bothEnds, type Calibrated, calibrate } from "../numerics/calibrate";
import { fQuantile, fUpper, tTwoSided } from "../numerics/distributions";
import { clearOf } from "../numerics/least-squares";
import { seededRandom } from "../numerics/random";
import { median } from "../numerics/sums";
import { significance } from "../study/coding";
import { Memo } from "../study/memo";
import type { Study, Term } from "../study/schema";
import { parentsOf } from "../terms/candidates";
import { termKey, WAVE_TERM } from "../terms/term";
import { type Draw, type Family, LEAST_CHECKED, orderColumn, type RankedId, Ranking, SEEN } from "./checks";
import { type Fit, fitModel } from "./fit";

/** Vectors that statistics are ranked among, the data's own one of them. */
const VECTORS = 2000;
/** Fewest vectors, where there are many trials; and trials times vectors that an answer may cost. */
const FEWEST = 200;
const MOST_WORK = 1e6;
const COUNTED_WORK = 1e7;
/** Residual degrees of freedom with quiet terms pooled, over those without, from which they are worth asking about. */
const WORTH = 1.5;
/** Draws that are tried for one in which the terms that are quiet in the results are quiet too. */
const MOST_TRIES = 20;
/** Waves from which a slope over all of them is more than a step between two. */
const LEAST_WAVES = 3;

/** Which model errors are taken from: the one in force, the same with its quiet terms pooled, or with waves out. */
export type LookId = "in-force" | "pooled" | "waves-out";

interface Look {
  of: LookId;
  fit: Fit;
  ranking: Ranking;
}

/** A statistic with its p, and of how many models its question was asked. */
export interface RankedStatistic extends Calibrated {
  value: number;
  models: number;
}

/** The statistics of a fit's errors with their p. */
export interface Ranked {
  of: LookId;
  fit: Fit;
  family: Family;
  /** Vectors that were ranked, the data's own among them. */
  vectors: number;
  own: Map<RankedId, RankedStatistic>;
  /** What a statistic passes by chance as often as is called significant. */
  critical: Map<RankedId, number>;
  /** Errors over their standard error; null at leverage one. */
  standard: (number | null)[];
}

/**
 * A seed from the results themselves (FNV-1a over their bits), so that the same results are ranked among the same draws
 * and no draws are everybody's: 2,000 of them miss a level of 5 % by half a point.
 */
function seedOf(observed: readonly number[]): number {
  const bits = new Uint32Array(Float64Array.from(observed).buffer);
  let hash = 0x811c9dc5;
  for (const word of bits) hash = Math.imul(hash ^ word, 0x01000193);
  return hash >>> 0;
}

/** The terms that stand clear by their own p, with the parents that hierarchy keeps for them; and those that do not. */
function partedTerms(fit: Fit): { kept: Term[]; quiet: Term[] } {
  const alpha = significance(fit);
  const clear = new Set(
    fit.anova.flatMap((r) => (r.source === "term" && r.term && r.p !== null && r.p < alpha ? [termKey(r.term)] : [])),
  );
  const keep = (term: Term): void => {
    clear.add(termKey(term));
    parentsOf(term).forEach(keep);
  };
  for (const t of fit.terms) if (clear.has(termKey(t))) parentsOf(t).forEach(keep);
  return {
    kept: fit.terms.filter((t) => clear.has(termKey(t))),
    quiet: fit.terms.filter((t) => !clear.has(termKey(t))),
  };
}

/**
 * Near saturation the errors of a model are a few sums in which one trial cannot be told from another. The same with
 * its quiet terms pooled has errors to look at.
 */
function pooledLook(study: Study, fit: Fit, memo: Memo): Look | undefined {
  if (fit.model.repetitions) return undefined;
  const { kept, quiet } = partedTerms(fit);
  if (quiet.length === 0) return undefined;
  const pooled = fitModel(study, fit.response, { terms: kept, ...fit.fitting }, memo);
  if (pooled.summary.residualDf < WORTH * fit.summary.residualDf) return undefined;
  const square = quiet.some((t) => new Set(t).size < t.length);
  // Copies tell how they scatter by themselves; and a square that was pooled is not missing.
  const asked = (id: RankedId): boolean => id !== "copies" && id !== "setup" && !(id === "bend" && square);
  return { of: "pooled", fit: pooled, ranking: new Ranking(study, pooled, asked) };
}

/**
 * Steps are taken for a slope only where they are as likely as this beside one: at the usual 5 % two steps of two
 * standard deviations passed for a drift in one study of ten.
 */
const ALIKE = 0.2;

/**
 * Steps between waves take most of a drift over all of them with them (eight parts of nine, of three waves). Where the
 * waves differ by no more than a slope explains, the slope is asked over all of them too.
 */
function acrossLook(study: Study, fit: Fit, memo: Memo): Look | undefined {
  const waves = fit.model.columns.filter((c) => c.key === termKey(WAVE_TERM)).length;
  if (waves + 1 < LEAST_WAVES || fit.model.repetitions) return undefined;
  const out = fitModel(study, fit.response, { terms: fit.terms, ...fit.fitting, block: false }, memo);
  const [within, across] = [orderColumn(fit), orderColumn(out)];
  if (!within || !across) return undefined;
  const left = (of: Fit, column: NonNullable<typeof within>): number => {
    const e = of.model.residuals("scaled");
    let squares = 0;
    let along = 0;
    e.forEach((v, i) => {
      squares += (v ?? 0) ** 2;
      along += (v ?? 0) * column.unit[i];
    });
    return squares - along ** 2;
  };
  const rest = left(fit, within);
  const df = fit.summary.residualDf - 1;
  if (df < 1 || !(rest > 0)) return undefined;
  const f = Math.max(0, left(out, across) - rest) / waves / (rest / df);
  if (fUpper(f, waves, df) < ALIKE) return undefined;
  return { of: "waves-out", fit: out, ranking: new Ranking(study, out, (id) => id === "order") };
}

/**
 * Whether terms are quiet in a draw as they are in the results: the pooled family is then ranked among draws that were
 * looked at the same way, not among ones whose quiet terms would have been kept. Anything is where a law's coefficients
 * are not sums of results.
 */
function quietIn(fit: Fit, pooled: Fit): (draw: Draw) => boolean {
  const { loadings, columns } = fit.model;
  const kept = new Set(pooled.terms.map(termKey));
  if (!loadings || fit.data.weights) return () => true;
  const { rows: n, cols: p, data } = loadings;
  const df = fit.summary.residualDf;
  const spaces = fit.terms
    .filter((t) => !kept.has(termKey(t)))
    .map((t) => {
      const basis: Float64Array[] = [];
      columns.forEach((c, j) => {
        if (c.key !== termKey(t)) return;
        const v = Float64Array.from({ length: n }, (_, i) => data[i * p + j]);
        for (let pass = 0; pass < 2; pass++) clearOf(basis, v);
        const length = Math.sqrt(v.reduce((s, x) => s + x * x, 0));
        basis.push(v.map((x) => x / length));
      });
      return { basis, critical: fQuantile(1 - significance(fit), basis.length, df) * basis.length };
    });
  return ({ values }) => {
    const left = fit.model.left(values, true) ?? values;
    const ms = left.reduce((t, e) => t + e * e, 0) / df;
    return spaces.every(({ basis, critical }) => {
      let ss = 0;
      for (const unit of basis) {
        let along = 0;
        for (let i = 0; i < n; i++) along += unit[i] * values[i];
        ss += along * along;
      }
      return ss < critical * ms;
    });
  };
}

/** The share of values below which one lies that chance passes as often as this. */
const passedBy = (values: readonly number[], alpha: number): number =>
  [...values].sort((a, b) => a - b)[Math.min(values.length - 1, Math.ceil((1 - alpha) * values.length))];

/**
 * Ranks the statistics of a fit's errors among 1,999 seeded draws through the same model matrix and weights (fewer
 * above 500 trials): the residuals of a fixed normal model over s do not depend on its parameters, so the ranks are
 * exact (Dufour 2006). The family is asked of the model in force and, where that tells more, of the same with its quiet
 * terms pooled, and of a drift over all waves; min-p over all of them adjusts (Westfall & Young 1993).
 *
 * @returns a ranking of each model that was asked, the one in force first; none where no error is left to judge: fewer
 * than three residual degrees of freedom, or an exact fit
 */
export function rankErrors(study: Study, fit: Fit, memo = new Memo()): Ranked[] {
  if (fit.summary.residualDf < LEAST_CHECKED || fit.model.exact) return [];
  const inForce: Look = { of: "in-force", fit, ranking: new Ranking(study, fit) };
  if (inForce.ranking.places.length < LEAST_CHECKED) return [];
  const pooled = pooledLook(study, fit, memo);
  const across = acrossLook(study, fit, memo);
  const looks = [inForce, ...(pooled ? [pooled] : []), ...(across ? [across] : [])];
  const random = seededRandom(seedOf(fit.model.observed));
  const alike = pooled ? quietIn(fit, pooled.fit) : () => true;
  const drawn = (): Draw => {
    let draw = inForce.ranking.draw(random);
    for (let k = 1; k < MOST_TRIES && !alike(draw); k++) draw = inForce.ranking.draw(random);
    return draw;
  };
  // A repetition of counts is a fit of its own.
  const work = fit.model.repetitions ? COUNTED_WORK / fit.model.columns.length ** 2 : MOST_WORK;
  const count = Math.max(FEWEST, Math.min(VECTORS, Math.floor(work / fit.n)));
  const owns = looks.map(({ ranking }) => ranking.own(random));
  const vectors = [looks.map(({ ranking }, l) => ranking.statistics(owns[l]))];
  while (vectors.length < count) {
    const draw = drawn();
    vectors.push(looks.map(({ ranking }) => ranking.statistics(ranking.errorsOf(draw))));
  }
  const values = vectors[0].map((v) => v.slice());
  looks.forEach(({ ranking }, l) => {
    const both = ranking.family.ids.indexOf("neighbours");
    if (both < 0) return;
    bothEnds(vectors.map((v) => v[l][both])).forEach((v, i) => {
      vectors[i][l][both] = v;
    });
  });
  const questions = looks.flatMap(({ ranking }) => ranking.family.ids);
  const ranked = calibrate(
    vectors.map((v) => v.flatMap((own) => Array.from(own))),
    questions,
  );
  let first = 0;
  return looks.map(({ of, fit: asked, ranking }, l): Ranked => {
    const { family } = ranking;
    const from = first;
    first += family.ids.length;
    const standard: (number | null)[] = ranking.kept.map(() => null);
    ranking.places.forEach((i, k) => {
      standard[i] = owns[l].standard[k];
    });
    const critical = (["single", "pull"] as const).flatMap((id): [RankedId, number][] => {
      const s = family.ids.indexOf(id);
      return s < 0
        ? []
        : [
            [
              id,
              passedBy(
                vectors.slice(1).map((v) => v[l][s]),
                significance(fit),
              ),
            ],
          ];
    });
    return {
      of,
      fit: asked,
      family,
      vectors: count,
      own: new Map(
        family.ids.map((id, s) => [
          id,
          { value: values[l][s], models: questions.filter((q) => q === id).length, ...ranked[from + s] },
        ]),
      ),
      critical: new Map(critical),
      standard,
    };
  });
}

/**
 * The error of one trial, in units of the response, that would pass what errors over their standard error pass by
 * chance four times in five: by the noncentral t of its error with the trial left out.
 *
 * @param passed the largest error over its standard error that chance passes seldom enough
 * @returns null where no error would, however large: the trial's own share of the residual is bounded
 */
function hiddenAt(fit: Fit, passed: number, leverage: number): number | null {
  const df = fit.summary.residualDf;
  if (!(passed ** 2 < df * (1 - 1e-6)) || fit.summary.s === null) return null;
  const t = passed * Math.sqrt((df - 1) / (df - passed ** 2));
  const times = detectable({ term: [], df: 1, unit: 1 }, SEEN, tTwoSided(t, df - 1), df - 1);
  return times === null ? null : (times * fit.summary.s) / Math.sqrt(1 - leverage);
}

/** The error of a trial of usual leverage that would be seen to stand apart. */
export function hiddenError({ fit, critical, standard }: Ranked): number | null {
  const passed = critical.get("single");
  const own = Array.from(fit.model.leverages).filter((_, i) => standard[i] !== null);
  return passed === undefined || own.length === 0 ? null : hiddenAt(fit, passed, median(own));
}

/** The trial whose error is soonest seen to rule the fit, and how large that is. */
export function hiddenPull({ fit, critical, standard }: Ranked): { trial: string; size: number } | null {
  const passed = critical.get("pull");
  if (passed === undefined) return null;
  const p = fit.model.columns.length;
  let least: { trial: string; size: number } | null = null;
  fit.trials.forEach(({ id }, i) => {
    const h = fit.model.leverages[i];
    if (standard[i] === null || !(h > 0)) return;
    const size = hiddenAt(fit, Math.sqrt((passed * p * (1 - h)) / h), h);
    if (size !== null && (least === null || size < least.size)) least = { trial: id, size };
  });
  return least;
}
