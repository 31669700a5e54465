import { fQuantile, noncentralFCdf, noncentralTCdf, tQuantile } from "../numerics/distributions";
import { block, inverseForm } from "../numerics/least-squares";
import { StudyError } from "../study/error";
import type { Factor, Study, Term } from "../study/schema";
import { contrastRows } from "../terms/model-matrix";
import { termKey, termShape } from "../terms/term";
import type { PointModel } from "./terms-info";

/** Noncentrality of a term for an effect of one σ: λ grows with the square of effect/σ. */
export interface TermReach {
  term: Term;
  df: number;
  /** λ at effect = σ. */
  unit: number;
}

/** The least favourable coefficient patterns of a term for an effect Δ = 1: one level pair per category, others midway. */
function patterns(study: Study, term: Term): number[][] {
  if (termShape(term) === "square") return [[1]];
  const factors = term.map((id) => study.factors.find((f) => f.id === id)).filter((f): f is Factor => f !== undefined);
  let all: number[][] = [[0.5]];
  for (const f of factors) {
    if (f.kind !== "categorical" || f.levels.length === 2) continue;
    const levels = f.levels.length;
    const rows = contrastRows(levels, "sum");
    const own: number[][] = [];
    for (let a = 0; a < levels; a++)
      for (let b = a + 1; b < levels; b++) {
        // Sum-to-zero coefficients are the level effects themselves, the last level's left out.
        const effects = rows.map((_, i) => (i === a ? 1 : i === b ? -1 : 0));
        own.push(effects.slice(0, -1));
      }
    all = all.flatMap((left) => own.map((right) => left.flatMap((x) => right.map((y) => x * y))));
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
    const at = model.kept.flatMap((c, j) => (c.key === key ? [j] : []));
    const width = model.columns.filter((c) => c.key === key).length;
    if (at.length < width) return [];
    const sub = block(model.inverse, at);
    const unit = Math.min(...patterns(study, term).map((b) => inverseForm(sub, b)));
    return [{ term, df: at.length, unit }];
  });
}

/**
 * Power of the F test (t for one degree of freedom, two-sided) of a term (noncentral distributions; Cohen 1988).
 *
 * @param ratio effect divided by σ
 * @param residualDf error degrees of freedom; without any there is no power
 */
export function termPower(reach: TermReach, ratio: number, alpha: number, residualDf: number): number | null {
  if (residualDf < 1) return null;
  const lambda = reach.unit * ratio * ratio;
  if (reach.df === 1) {
    const critical = tQuantile(1 - alpha / 2, residualDf);
    const delta = Math.sqrt(lambda);
    return 1 - noncentralTCdf(critical, residualDf, delta) + noncentralTCdf(-critical, residualDf, delta);
  }
  return 1 - noncentralFCdf(fQuantile(1 - alpha, reach.df, residualDf), reach.df, residualDf, lambda);
}

/** Effect in units of σ that reaches the wanted power; null without error degrees of freedom. */
export function detectable(reach: TermReach, power: number, alpha: number, residualDf: number): number | null {
  if (residualDf < 1) return null;
  const at = (ratio: number): number => (termPower(reach, ratio, alpha, residualDf) ?? 0) - power;
  if (at(0) >= 0) return 0;
  let high = 1 / Math.sqrt(reach.unit);
  while (at(high) < 0) {
    high *= 2;
    if (high > 1e12) return null;
  }
  return solve(at, 0, high);
}

/** Root of an increasing function by the method of Brent's bracket with bisection safeguards. */
function solve(f: (x: number) => number, low: number, high: number): number {
  let a = low;
  let b = high;
  let fa = f(a);
  for (let i = 0; i < 200 && b - a > 1e-13 * Math.max(1e-300, Math.abs(b)); i++) {
    const fb = f(b);
    const secant = b - (fb * (b - a)) / (fb - fa || 1);
    const inside = secant > a + 0.01 * (b - a) && secant < b - 0.01 * (b - a);
    const mid = i % 2 === 0 && inside ? secant : (a + b) / 2;
    const fm = f(mid);
    if (fm < 0) {
      a = mid;
      fa = fm;
    } else b = mid;
  }
  return (a + b) / 2;
}

export interface PowerQuestion {
  alpha: number;
  effect?: number;
  noise?: number;
  power?: number;
  replicates?: number;
}

export interface PowerAnswer {
  solved: "effect" | "noise" | "power" | "replicates" | "alpha";
  effect: number;
  noise: number;
  power: number | null;
  replicates: number;
  alpha: number;
  df: number;
  curve: { effect: number; power: number | null }[];
}

/**
 * Solves the one quantity left out of effect, noise, power and replicates for the worst of the terms. Replicates
 * multiply the whole set of points.
 *
 * @param n points of one replicate
 * @throws StudyError when not exactly one is left out, or nothing can be estimated
 */
export function solvePower(terms: readonly TermReach[], n: number, p: number, question: PowerQuestion): PowerAnswer {
  const { alpha } = question;
  if (!(alpha > 0 && alpha < 1)) throw new StudyError("bad-alpha", `α is ${alpha}; give a number between 0 and 1.`, ["alpha"]);
  const keys = ["effect", "noise", "power", "replicates"] as const;
  const missing = keys.filter((k) => question[k] === undefined);
  if (missing.length !== 1)
    throw new StudyError("power-question", `Give three of effect, noise, power and replicates; ${4 - missing.length} were given.`, ["power"]);
  for (const k of keys) {
    const v = question[k];
    if (v !== undefined && !(v > 0 && Number.isFinite(v))) throw new StudyError("power-question", `${k} is ${v}; give a number above 0.`, [k]);
  }
  if (question.power !== undefined && (question.power >= 1 || question.power <= alpha))
    throw new StudyError("power-question", `Power is ${question.power}; give a number between α (${alpha}) and 1.`, ["power"]);
  if (question.replicates !== undefined && !Number.isInteger(question.replicates))
    throw new StudyError("power-question", `Replicates is ${question.replicates}; give a whole number.`, ["replicates"]);
  if (terms.length === 0) throw new StudyError("nothing-to-estimate", "These trials cannot estimate any of the terms asked.", ["terms"]);
  const dfAt = (r: number): number => r * n - p;
  const powerAt = (ratio: number, r: number): number | null => {
    let worst: number | null = null;
    for (const t of terms) {
      const v = termPower({ ...t, unit: t.unit * r }, ratio, alpha, dfAt(r));
      if (v === null) return null;
      worst = worst === null ? v : Math.min(worst, v);
    }
    return worst;
  };
  const ratioFor = (r: number): number => {
    let worst = 0;
    for (const t of terms) {
      const v = detectable({ ...t, unit: t.unit * r }, question.power as number, alpha, dfAt(r));
      if (v === null)
        throw new StudyError(
          "no-error-df",
          "These trials leave no degrees of freedom for error, so there is no power to speak of; add trials or replicates.",
          ["replicates"],
        );
      worst = Math.max(worst, v);
    }
    return worst;
  };
  let { effect, noise, power, replicates } = question;
  const solved = missing[0];
  if (solved === "replicates") {
    const ratio = (effect as number) / (noise as number);
    let r = 1;
    while ((powerAt(ratio, r) ?? 0) < (power as number)) {
      r++;
      if (r > 100_000)
        throw new StudyError("too-many-replicates", "More than 100,000 replicates would be needed; the effect is too small for this noise.", [
          "effect",
        ]);
      if (r > 64) r += Math.floor(r / 16);
    }
    while (r > 1 && (powerAt(ratio, r - 1) ?? 0) >= (power as number)) r--;
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
    curve: Array.from({ length: 41 }, (_, i) => ({ effect: (top * i) / 40, power: powerAt((top * i) / 40 / (noise as number), r) })),
  };
}
