import type { Message } from "../messages/message";
import type { RemarkValues } from "../messages/remarks";
import { tQuantile } from "../numerics/distributions";
import { maximumModulusQuantile } from "../numerics/multiple-comparisons";
import { median } from "../numerics/sums";
import { endOf, isNumeric } from "../study/coding";
import { activeFactors } from "../study/roles";
import type { Study, Term } from "../study/schema";
import { alphabetOf, termName } from "../terms/term";
import type { Fit } from "./fit";
import type { ModelData } from "./model-data";

/** One contrast of the saturated set of a two-level plan: the effects it stands for and its size. */
export interface Contrast {
  /** The simplest effect of the chain first. */
  term: Term;
  chain: { term: Term; sign: 1 | -1 }[];
  /** Change from low to high. */
  effect: number;
  /** Effect scaled so that all contrasts have one variance. */
  scaled: number;
  /** Sign of the contrast at each corner trial, by the trial's place in the data. */
  signs: { corner: number; sign: 1 | -1 }[];
}

/** Pseudo standard error and margins (Lenth 1989). */
export interface Lenth {
  pse: number;
  margin: number;
  simultaneousMargin: number;
}

/** Sizes past which a contrast is hard to put down to noise: alone, and among all of them. */
export interface Margins {
  /** From repeated trials where they leave three degrees of freedom or more, else from the small contrasts. */
  from: "pure-error" | "lenth";
  margin: number;
  simultaneousMargin: number;
  /** What stands for the standard error of a contrast. */
  error: number;
  /** Degrees of freedom of pure error. */
  df?: number;
}

/** The contrasts of a half-normal plot, and what they are held to. */
export interface ContrastSet {
  contrasts: Contrast[];
  lenth?: Lenth;
  margins?: Margins;
  /** Why there are no contrasts or no margins. */
  refusal?: Message<RemarkValues>;
  /** Where there are set-ups: contrasts told between them, and within them, each judged among its own. */
  strata?: Record<"between" | "within", ContrastSet>;
}

/**
 * Lenth's (1989) pseudo standard error of contrasts with one variance, the first median taken over all of them.
 * @returns undefined for fewer than five contrasts or when all are zero
 */
export function lenthMargins(effects: readonly number[], confidence: number): Lenth | undefined {
  const m = effects.length;
  if (m < 5) return undefined;
  const sizes = effects.map(Math.abs);
  const first = 1.5 * median(sizes);
  const quiet = sizes.filter((v) => v < 2.5 * first);
  if (quiet.length === 0) return undefined;
  const pse = 1.5 * median(quiet);
  const df = m / 3;
  return {
    pse,
    margin: tQuantile((1 + confidence) / 2, df) * pse,
    simultaneousMargin: tQuantile((1 + confidence ** (1 / m)) / 2, df) * pse,
  };
}

const MOST_CONTRASTS = 1023;

/**
 * All one-df contrasts that the two-level part of the trials can estimate, waves and the constant excluded, whatever
 * terms are kept. Only trials at the corners of their wave's ranges enter: centre and axial points say nothing of an
 * interaction's chain and would unbalance a category's contrast. Refused when the contrasts are not orthogonal.
 *
 * Margins come from pure error by t and, over all contrasts, by the studentized maximum modulus (Stoline & Ury 1979)
 * where it has three degrees of freedom or more, else from Lenth.
 *
 * @param z results on the fitted scale, one per trial of `data`
 * @param pure sum of squares and degrees of freedom of pure error on that scale
 */
export function saturatedContrasts(
  study: Study,
  data: ModelData,
  z: readonly number[],
  pure?: { ss: number; df: number },
): ContrastSet {
  const factors = activeFactors(study).filter((f) => data.planned.some((s) => s[f.id] !== data.planned[0][f.id]));
  const wide = factors.find((f) => !isNumeric(f) && f.levels.length > 2);
  if (wide)
    return {
      contrasts: [],
      refusal: { code: "contrasts-wide", values: { factor: wide.name } },
    };
  if (factors.length === 0) return { contrasts: [], refusal: { code: "contrasts-none-varies", values: {} } };
  const signs = data.trials.map((t, i) =>
    factors.map((f) => {
      const value = data.planned[i][f.id];
      if (!isNumeric(f)) return value === f.levels[1] ? 1 : -1;
      return endOf(study, t.wave, f, value as number);
    }),
  );
  const corners = signs.flatMap((row, i) => (row.every((v) => !Number.isNaN(v)) ? [i] : []));
  const n = corners.length;
  if (n < 4) return { contrasts: [], refusal: { code: "contrasts-no-corners", values: {} } };
  const waves = corners.map((i) => data.waves[i]);
  const groups = [...new Set(waves)].map((w) => waves.flatMap((v, i) => (v === w ? [i] : [])));
  const alphabet = alphabetOf(study);
  const found: { vector: Float64Array; contrast: Contrast }[] = [];
  let refusal: ContrastSet["refusal"];

  const consider = (chosen: readonly number[]): void => {
    const v = Float64Array.from(corners, (i) => chosen.reduce((product, j) => product * signs[i][j], 1));
    const term = chosen.map((j) => factors[j].id);
    let confounded = false;
    for (const group of groups) {
      const total = group.reduce((t, i) => t + v[i], 0);
      if (Math.abs(total) === group.length) confounded = true;
      else if (total !== 0) {
        refusal = { code: "contrasts-unbalanced", values: { term: termName(alphabet, term) } };
        return;
      }
    }
    // Constant within every wave: it travels with the constant or with the waves.
    if (confounded) return;
    for (const other of found) {
      let dot = 0;
      for (let i = 0; i < n; i++) dot += v[i] * other.vector[i];
      if (dot === 0) continue;
      if (Math.abs(dot) === n) {
        other.contrast.chain.push({ term, sign: dot > 0 ? 1 : -1 });
        return;
      }
      refusal = {
        code: "contrasts-not-orthogonal",
        values: { term: termName(alphabet, term), to: termName(alphabet, other.contrast.term) },
      };
      return;
    }
    let cross = 0;
    for (let i = 0; i < n; i++) cross += v[i] * z[corners[i]];
    const effect = (2 * cross) / n;
    // Every contrast is a sum of ±1 over the same corners, so all have one variance as they stand.
    found.push({
      vector: v,
      contrast: {
        term,
        chain: [{ term, sign: 1 }],
        effect,
        scaled: effect,
        signs: corners.map((corner, i) => ({ corner, sign: v[i] > 0 ? 1 : -1 })),
      },
    });
  };
  const grow = (from: number, chosen: number[], left: number): void => {
    for (let j = from; j < factors.length && found.length < MOST_CONTRASTS && !refusal; j++) {
      if (left === 1) consider([...chosen, j]);
      else grow(j + 1, [...chosen, j], left - 1);
    }
  };
  for (let size = 1; size <= factors.length && found.length < Math.min(n - 1, MOST_CONTRASTS) && !refusal; size++) {
    const before = found.length;
    grow(0, [], size);
    // Orders past the third are looked at only while they still bring new contrasts.
    if (size > 3 && found.length === before) break;
  }
  if (refusal) return { contrasts: [], refusal };
  const contrasts = found.map((f) => f.contrast);
  const lenth = lenthMargins(
    contrasts.map((c) => c.scaled),
    study.confidence,
  );
  if (!lenth) return { contrasts, refusal: { code: "contrasts-few", values: {} } };
  const measured = pure && judges(pure, z) ? pureMargins(pure, n, contrasts.length, study.confidence) : undefined;
  const { pse, margin, simultaneousMargin } = lenth;
  return { contrasts, lenth, margins: measured ?? { from: "lenth", margin, simultaneousMargin, error: pse } };
}

/** Degrees of freedom from which pure error judges contrasts better than the small ones among them. */
const LEAST_PURE = 3;

/** Whether pure error judges contrasts: that of a computation, which repeats itself to the last digit, does not. */
const judges = ({ ss, df }: { ss: number; df: number }, z: readonly number[]): boolean =>
  df >= LEAST_PURE && ss > 1e-24 * z.reduce((t, v) => t + v * v, 0);

/** Margins of contrasts of ±1 over n corners, each with variance 4σ²/n. */
function pureMargins(
  { ss, df }: { ss: number; df: number },
  n: number,
  contrasts: number,
  confidence: number,
): Margins {
  const error = 2 * Math.sqrt(ss / df / n);
  return {
    from: "pure-error",
    margin: tQuantile((1 + confidence) / 2, df) * error,
    simultaneousMargin: maximumModulusQuantile(confidence, contrasts, df) * error,
    error,
    df,
  };
}

/**
 * The contrasts of a fit, judged by its pure error where it has some. Of shares and counts they are those of values of
 * one variance (Freeman & Tukey 1950), which only trials of one size have.
 */
export function contrastsOf(study: Study, fit: Fit): ContrastSet {
  const { likelihood, observed } = fit.model;
  if (fit.model.setups) return byStratum(study, fit, saturatedContrasts(study, fit.data, observed));
  if (fit.model.piecesOf()?.unequal) return { contrasts: [], refusal: { code: "contrasts-units", values: {} } };
  if (!likelihood) return saturatedContrasts(study, fit.data, observed, pureErrorOf(fit));
  const { stable } = likelihood;
  return stable
    ? saturatedContrasts(study, fit.data, stable.values)
    : { contrasts: [], refusal: { code: "contrasts-sizes", values: { share: fit.model.link.multiplies === "odds" } } };
}

/**
 * Contrasts by what their errors are: those that never change sign within a set-up carry what set-ups vary by. Margins
 * of the whole are those within.
 */
function byStratum(study: Study, fit: Fit, { contrasts, refusal }: ContrastSet): ContrastSet {
  if (contrasts.length === 0) return { contrasts, ...(refusal ? { refusal } : {}) };
  const between = contrasts.filter(({ signs }) => {
    const first = new Map<string | undefined, number>();
    return signs.every(({ corner, sign }) => {
      const setup = fit.data.setups?.[corner];
      if (!first.has(setup)) first.set(setup, sign);
      return first.get(setup) === sign;
    });
  });
  const judged = (own: Contrast[]): ContrastSet => {
    const sizes = own.map((c) => c.scaled);
    const lenth = lenthMargins(sizes, study.confidence);
    if (!lenth) return { contrasts: own, refusal: { code: "contrasts-few", values: {} } };
    const { pse: error, margin, simultaneousMargin } = lenth;
    return { contrasts: own, lenth, margins: { from: "lenth", margin, simultaneousMargin, error } };
  };
  const within = judged(contrasts.filter((c) => !between.includes(c)));
  return { ...within, contrasts, strata: { between: judged(between), within } };
}

/** Pure error of a fit as contrasts are judged by it. */
export const pureErrorOf = (fit: Pick<Fit, "lackOfFit">): { ss: number; df: number } | undefined =>
  fit.lackOfFit && fit.lackOfFit.pureErrorSs !== null
    ? { ss: fit.lackOfFit.pureErrorSs, df: fit.lackOfFit.pureErrorDf }
    : undefined;
