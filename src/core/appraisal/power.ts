import { fQuantile, noncentralFCdf, noncentralTCdf, tQuantile } from "../numerics/distributions";
import { block, inverseForm } from "../numerics/least-squares";
import { rootBetween } from "../numerics/root";
import { StudyError } from "../study/error";
import type { Memo } from "../study/memo";
import type { Factor, Study, Term } from "../study/schema";
import { contrastRows } from "../terms/model-matrix";
import { termKey, termShape } from "../terms/term";
import type { PointModel } from "./terms-info";

/** Most copies of all trials that power is worked out for. */
export const MOST_REPLICATES = 5000;

/** Noncentrality of a term for an effect of one σ: λ grows with the square of effect/σ. */
export interface TermReach {
  term: Term;
  df: number;
  /** λ at effect = σ. */
  unit: number;
  /** With set-ups: what the term is tested on (null: nothing), and what a copy of all trials adds to it. */
  errorDf?: number | null;
  copyDf?: number;
}

/** Degrees of freedom a term is tested on: its own where there are set-ups, else what the model leaves. */
export const dfOf = ({ errorDf }: Pick<TermReach, "errorDf">, residualDf: number): number =>
  errorDf === undefined ? residualDf : (errorDf ?? 0);

/**
 * The least favourable coefficient patterns of a term for an effect Δ = 1: one level pair per category, others
 * midway.
 */
export function patterns(study: Study, term: Term): number[][] {
  if (termShape(term) === "square") return [[1]];
  const factors = term.map((id) => study.factors.find((f) => f.id === id)).filter((f): f is Factor => f !== undefined);
  let all: number[][] = [[0.5]];
  for (const f of factors) {
    if (f.kind !== "categorical" || f.levels.length === 2) continue;
    const levels = f.levels.length;
    const rows = contrastRows(levels, "sum");
    const contrasts: number[][] = [];
    for (let a = 0; a < levels; a++)
      for (let b = a + 1; b < levels; b++) {
        // Sum-to-zero coefficients are the level effects themselves, the last level's left out.
        const effects = rows.map((_, i) => (i === a ? 1 : i === b ? -1 : 0));
        contrasts.push(effects.slice(0, -1));
      }
    all = all.flatMap((left) => contrasts.map((right) => left.flatMap((x) => right.map((y) => x * y))));
  }
  return all;
}

/**
 * Reach of each term of a model on its points: λ for Δ = σ at the least favourable pattern of the contract's effect
 * (change from low to high; centre to edge for squares; two levels Δ apart for categories).
 */
export function reaches(study: Study, model: PointModel, terms: readonly Term[]): TermReach[] {
  return terms.flatMap((term) => {
    const key = termKey(term);
    const columns = model.kept.flatMap((c, j) => (c.key === key ? [j] : []));
    const width = model.columns.filter((c) => c.key === key).length;
    if (columns.length < width) return [];
    const sub = block(model.inverse, columns);
    const unit = Math.min(...patterns(study, term).map((b) => inverseForm(sub, b)));
    const { strata } = model;
    if (!strata) return [{ term, df: columns.length, unit }];
    const n = model.matrix.rows;
    const between = columns.every((j) => strata.constant[j]);
    const copyDf = strata.setups === n ? n : between ? strata.setups : n - strata.setups;
    return [{ term, df: columns.length, unit, errorDf: strata.errorDf(columns), copyDf }];
  });
}

/** The reach of a term with so many copies of all trials, which bring set-ups of their own. */
export const copies = (t: TermReach, r: number): TermReach => ({
  ...t,
  unit: t.unit * r,
  ...(t.errorDf === undefined ? {} : { errorDf: (t.errorDf ?? 0) + (r - 1) * (t.copyDf ?? 0) }),
});

/**
 * Power of the F test (t for one degree of freedom, two-sided) of a term (noncentral distributions; Cohen 1988).
 *
 * @param ratio effect divided by σ
 * @param residualDf error degrees of freedom, where the term has none of its own; without any there is no power
 */
export function termPower(reach: TermReach, ratio: number, alpha: number, residualDf: number): number | null {
  const df = dfOf(reach, residualDf);
  if (df < 1) return null;
  const lambda = reach.unit * ratio * ratio;
  if (reach.df === 1) {
    const critical = tQuantile(1 - alpha / 2, df);
    const delta = Math.sqrt(lambda);
    return 1 - noncentralTCdf(critical, df, delta) + noncentralTCdf(-critical, df, delta);
  }
  return 1 - noncentralFCdf(fQuantile(1 - alpha, reach.df, df), reach.df, df, lambda);
}

/** √λ at which the test of a term with these degrees of freedom reaches the power. */
function noncentrality(df: number, residualDf: number, power: number, alpha: number): number | null {
  const excess = (root: number): number => (termPower({ term: [], df, unit: 1 }, root, alpha, residualDf) ?? 0) - power;
  if (excess(0) >= 0) return 0;
  let high = 4;
  while (high < 1e9 && excess(high) < 0) high *= 2;
  return high < 1e9 ? rootBetween(excess, high === 4 ? 0 : high / 2, high) : null;
}

/**
 * Effect in units of σ that reaches the wanted power; null without error degrees of freedom.
 *
 * @param memo where noncentralities stand between terms and plans
 */
export function detectable(
  reach: TermReach,
  power: number,
  alpha: number,
  residualDf: number,
  memo?: Memo,
): number | null {
  const df = dfOf(reach, residualDf);
  if (df < 1) return null;
  // λ grows with the square of the effect, so one noncentrality serves every term of the same degrees of freedom.
  const find = (): number | null => noncentrality(reach.df, df, power, alpha);
  const root = memo ? memo.get("noncentrality", [reach.df, df, power, alpha], find) : find();
  return root === null ? null : root / Math.sqrt(reach.unit);
}

export interface PowerQuestion {
  /** Left out when all four others are given: then it is what is solved for. */
  alpha?: number;
  effect?: number;
  noise?: number;
  power?: number;
  replicates?: number;
}

/** Effect, noise, power and replicates that go together, for the worst of the terms. */
export interface PowerAnswer {
  /** Which of them was left out, and found. */
  solved: "effect" | "noise" | "power" | "replicates" | "alpha";
  /** Change between low and high, and standard deviation of one trial, in one unit. */
  effect: number;
  noise: number;
  /** Null where no error would be left to judge by. */
  power: number | null;
  replicates: number;
  /** Level of the test. */
  alpha: number;
  /** Degrees of freedom for error. */
  df: number;
  /** Power over effects, all else as it is. */
  curve: { effect: number; power: number | null }[];
}

/**
 * Solves the one quantity left out of effect, noise, power and replicates for the worst of the terms. Replicates
 * multiply the whole set of points.
 *
 * @param n points of one replicate
 * @throws StudyError when not exactly one is left out, or nothing can be estimated
 */
// One branch for each unknown that can be solved for, over the same closures.
export function solvePower(terms: readonly TermReach[], n: number, p: number, question: PowerQuestion): PowerAnswer {
  const keys = ["effect", "noise", "power", "replicates"] as const;
  const missing = keys.filter((k) => question[k] === undefined);
  const seeksAlpha = question.alpha === undefined && missing.length === 0;
  if (question.alpha === undefined && !seeksAlpha) throw new StudyError("power-question.alpha", {}, ["alpha"]);
  let alpha = question.alpha ?? 0.05;
  if (!(alpha > 0 && alpha < 1)) throw new StudyError("bad-alpha", { alpha }, ["alpha"]);
  if (!seeksAlpha && missing.length !== 1)
    throw new StudyError("power-question.three", { given: 4 - missing.length }, ["power"]);
  for (const k of keys) {
    const v = question[k];
    if (v !== undefined && !(v > 0 && Number.isFinite(v)))
      throw new StudyError("power-question.above-zero", { name: k, value: v }, [k]);
  }
  if (question.power !== undefined && (question.power >= 1 || question.power <= (seeksAlpha ? 0 : alpha)))
    throw new StudyError("power-question.power", { power: question.power, alpha: seeksAlpha ? null : alpha }, [
      "power",
    ]);
  if (question.replicates !== undefined && !(question.replicates <= MOST_REPLICATES && question.replicates % 1 === 0))
    throw new StudyError("power-question.replicates", { replicates: question.replicates, most: MOST_REPLICATES }, [
      "replicates",
    ]);
  if (terms.length === 0) throw new StudyError("nothing-to-estimate", {}, ["terms"]);
  const dfAt = (r: number): number => r * n - p;
  const powerAt = (ratio: number, r: number, level = alpha): number | null => {
    let worst: number | null = null;
    for (const t of terms) {
      const v = termPower(copies(t, r), ratio, level, dfAt(r));
      if (v === null) return null;
      worst = worst === null ? v : Math.min(worst, v);
    }
    return worst;
  };
  const ratioFor = (r: number): number => {
    let worst = 0;
    for (const t of terms) {
      const v = detectable(copies(t, r), question.power as number, alpha, dfAt(r));
      if (v === null) throw new StudyError("no-error-df", {}, ["replicates"]);
      worst = Math.max(worst, v);
    }
    return worst;
  };
  let { effect, noise, power, replicates } = question;
  const solved = seeksAlpha ? "alpha" : missing[0];
  if (seeksAlpha) {
    const ratio = (effect as number) / (noise as number);
    if (powerAt(ratio, replicates as number) === null) throw new StudyError("no-error-df", {}, ["replicates"]);
    // Power grows with α; the root is sought on its logarithm, since wanted levels may be very small.
    const low = Math.log(1e-15);
    const excess = (logAlpha: number): number =>
      (powerAt(ratio, replicates as number, Math.exp(logAlpha)) ?? 0) - (power as number);
    alpha = excess(low) >= 0 ? 1e-15 : Math.exp(rootBetween(excess, low, Math.log(1 - 1e-12)));
  }
  if (solved === "replicates") {
    const ratio = (effect as number) / (noise as number);
    const enough = (r: number): boolean => (powerAt(ratio, r) ?? 0) >= (power as number);
    // Power grows with replicates: the first number that is enough lies between the last two of a doubling row.
    let low = 0;
    let r = 1;
    while (!enough(r)) {
      if (r === MOST_REPLICATES) throw new StudyError("too-many-replicates", { most: MOST_REPLICATES }, ["effect"]);
      low = r;
      r = Math.min(MOST_REPLICATES, 2 * r);
    }
    while (r - low > 1) {
      const middle = Math.floor((low + r) / 2);
      if (enough(middle)) r = middle;
      else low = middle;
    }
    replicates = r;
  }
  const r = replicates as number;
  if (solved === "effect") effect = ratioFor(r) * (noise as number);
  if (solved === "noise") noise = (effect as number) / ratioFor(r);
  const reached = powerAt((effect as number) / (noise as number), r);
  if (solved === "power" || solved === "replicates") power = reached ?? undefined;
  const top = 2 * (effect as number);
  return {
    solved,
    effect: effect as number,
    noise: noise as number,
    power: power ?? null,
    replicates: r,
    alpha,
    df: dfAt(r),
    curve: Array.from({ length: 41 }, (_, i) => ({
      effect: (top * i) / 40,
      power: powerAt((top * i) / 40 / (noise as number), r),
    })),
  };
}
