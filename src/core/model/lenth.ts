import { tQuantile } from "../numerics/distributions";
import { median } from "../numerics/sums";
import { activeFactors, endOf, isNumeric } from "../study/coding";
import type { Study, Term } from "../study/schema";
import { alphabetOf, termName } from "../terms/term";
import type { ModelData } from "./data";

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

export interface ContrastSet {
  contrasts: Contrast[];
  lenth?: Lenth;
  /** Why there are no contrasts or no margins. */
  refusal?: string;
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
 * @param z results on the fitted scale, one per trial of `data`
 */
export function saturatedContrasts(study: Study, data: ModelData, z: readonly number[]): ContrastSet {
  const factors = activeFactors(study).filter((f) => data.planned.some((s) => s[f.id] !== data.planned[0][f.id]));
  const wide = factors.find((f) => !isNumeric(f) && f.levels.length > 2);
  if (wide)
    return {
      contrasts: [],
      refusal: `${wide.name} has more than two levels, so there is no set of two-level contrasts.`,
    };
  if (factors.length === 0) return { contrasts: [], refusal: "No factor varies in these trials." };
  const signs = data.trials.map((t, i) =>
    factors.map((f) => {
      const value = data.planned[i][f.id];
      if (!isNumeric(f)) return value === f.levels[1] ? 1 : -1;
      return endOf(study, t.wave, f, value as number);
    }),
  );
  const corners = signs.flatMap((row, i) => (row.every((v) => !Number.isNaN(v)) ? [i] : []));
  const n = corners.length;
  if (n < 4) return { contrasts: [], refusal: "These trials hold no two-level part." };
  const waves = corners.map((i) => data.waves[i]);
  const groups = [...new Set(waves)].map((w) => waves.flatMap((v, i) => (v === w ? [i] : [])));
  const alphabet = alphabetOf(study);
  const found: { vector: Float64Array; contrast: Contrast }[] = [];
  let refusal: string | undefined;

  const consider = (chosen: readonly number[]): void => {
    const v = Float64Array.from(corners, (i) => chosen.reduce((product, j) => product * signs[i][j], 1));
    const term = chosen.map((j) => factors[j].id);
    let confounded = false;
    for (const group of groups) {
      const total = group.reduce((t, i) => t + v[i], 0);
      if (Math.abs(total) === group.length) confounded = true;
      else if (total !== 0) {
        refusal = `${termName(alphabet, term)} is not balanced over these trials, so contrasts are not orthogonal.`;
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
      refusal = `${termName(alphabet, term)} is not orthogonal to ${termName(alphabet, other.contrast.term)} in these trials.`;
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
  return lenth ? { contrasts, lenth } : { contrasts, refusal: "Fewer than five contrasts: too few for a margin." };
}
