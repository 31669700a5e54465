import { tQuantile } from "../numerics/distributions";
import { median } from "../numerics/sums";
import { activeFactors, code, isNumeric, plannedRange } from "../study/coding";
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
 * terms are kept. Refused when they are not orthogonal.
 *
 * @param z results on the fitted scale, one per trial of `data`
 */
export function saturatedContrasts(study: Study, data: ModelData, z: readonly number[]): ContrastSet {
  const n = z.length;
  const factors = activeFactors(study).filter((f) => {
    const first = data.planned[0][f.id];
    return data.planned.some((s) => s[f.id] !== first);
  });
  const wide = factors.find((f) => !isNumeric(f) && f.levels.length > 2);
  if (wide) return { contrasts: [], refusal: `${wide.name} has more than two levels, so there is no set of two-level contrasts.` };
  if (factors.length === 0) return { contrasts: [], refusal: "No factor varies in these trials." };
  const columns = factors.map((f) =>
    Float64Array.from(data.trials, (t, i) => {
      const value = data.planned[i][f.id];
      if (!isNumeric(f)) return value === f.levels[1] ? 1 : -1;
      const x = code(f, value as number, plannedRange(study, t.wave, f));
      const slack = f.kind === "continuous" && f.step !== undefined ? Math.min(0.4, f.step / (f.high - f.low)) : 1e-9;
      // Whole steps beside the corner or the centre count as the corner or the centre.
      return Math.abs(Math.abs(x) - 1) <= slack + 1e-9 ? Math.sign(x) : Math.abs(x) <= slack + 1e-9 ? 0 : x;
    }),
  );
  const waves = [...new Set(data.waves)];
  const groups = waves.map((w) => data.waves.flatMap((v, i) => (v === w ? [i] : [])));
  const squares = new Float64Array(n);
  for (const c of columns) for (let i = 0; i < n; i++) squares[i] += Math.abs(c[i]);
  const cornered = data.trials.filter((_, i) => columns.every((c) => Math.abs(c[i]) === 1)).length;
  if (cornered < 4) return { contrasts: [], refusal: "These trials hold no two-level part." };

  const found: { vector: Float64Array; norm: number; contrast: Contrast }[] = [];
  const alphabet = alphabetOf(study);
  let refusal: string | undefined;
  const rest = data.trials.length;
  const consider = (at: readonly number[]): void => {
    if (refusal) return;
    const v = new Float64Array(n).fill(1);
    for (const j of at) for (let i = 0; i < n; i++) v[i] *= columns[j][i];
    // Interactions live on the corners alone; off them their products say nothing of the chain.
    if (at.length > 1) for (let i = 0; i < n; i++) if (columns.some((c) => Math.abs(c[i]) !== 1)) v[i] = 0;
    let norm = 0;
    for (let i = 0; i < n; i++) norm += v[i] ** 2;
    if (norm === 0) return;
    const onCorners = Math.sqrt(norm * norm);
    const slackOf = 1e-9 * Math.max(onCorners, 1);
    const term = at.map((j) => factors[j].id);
    let confounded = false;
    for (const group of groups) {
      const total = group.reduce((t, i) => t + v[i], 0);
      if (Math.abs(total) <= slackOf) continue;
      const size = group.reduce((t, i) => t + Math.abs(v[i]), 0);
      if (Math.abs(Math.abs(total) - size) <= slackOf) confounded = true;
      else {
        refusal = `${termName(alphabet, term)} is not balanced over these trials, so contrasts are not orthogonal.`;
        return;
      }
    }
    if (confounded) return;
    for (const other of found) {
      let dot = 0;
      for (let i = 0; i < n; i++) dot += v[i] * other.vector[i];
      if (Math.abs(dot) <= 1e-9 * n) continue;
      // The same contrast on the corners: another member of a chain already met.
      const same = v.every((x, i) => columns.some((c) => Math.abs(c[i]) !== 1) || Math.abs(Math.abs(x) - Math.abs(other.vector[i])) < 1e-9);
      if (same && at.length > 1 && Math.abs(Math.abs(dot) - cornered) <= 1e-9 * n) {
        other.contrast.chain.push({ term, sign: dot > 0 ? 1 : -1 });
        return;
      }
      refusal = `${termName(alphabet, term)} is not orthogonal to ${termName(alphabet, other.contrast.term)} in these trials.`;
      return;
    }
    let cross = 0;
    for (let i = 0; i < n; i++) cross += v[i] * z[i];
    const effect = (2 * cross) / norm;
    found.push({ vector: v, norm, contrast: { term, chain: [{ term, sign: 1 }], effect, scaled: effect * Math.sqrt(norm / cornered) } });
  };
  const grow = (from: number, chosen: number[], left: number): void => {
    for (let j = from; j < factors.length && found.length < MOST_CONTRASTS && !refusal; j++) {
      if (left === 1) consider([...chosen, j]);
      else grow(j + 1, [...chosen, j], left - 1);
    }
  };
  for (let size = 1; size <= factors.length && found.length < Math.min(rest - 1, MOST_CONTRASTS); size++) {
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
