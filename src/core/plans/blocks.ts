import { generateWords, type Word, wordLength } from "../appraisal/defining-words";
import { isNumeric } from "../study/coding";
import { StudyError } from "../study/error";
import type { Factor, Settings } from "../study/schema";

/** High or low of a two-level factor at a coded point. */
export const isHigh = (factor: Factor, point: Settings): boolean =>
  isNumeric(factor) ? (point[factor.id] as number) > 0 : point[factor.id] === factor.levels[1];

const parity = (mask: number): number => wordLength(mask) & 1;

/** Shortest effect that travels with the block effect: the lowest-order member of its alias class. */
function classLengths(effect: number, words: readonly Word[]): number[] {
  const lengths = [wordLength(effect), ...words.map((w) => wordLength(w.mask ^ effect))];
  const counts = [0, 0, 0, 0];
  for (const l of lengths) if (l < 4) counts[l]++;
  return counts;
}

/**
 * Splits a regular two-level plan into 2^q blocks by confounding: main effects stay clear of blocks, then as few
 * two-factor interactions as possible are given up, then three-factor ones (Box, Hunter & Hunter 2005, 5.13).
 *
 * @returns block of each point from 0, or undefined for a single block
 * @throws StudyError when the count is not a power of two or the plan cannot be split without losing a main effect
 */
export function confoundedBlocks(
  factors: readonly Factor[],
  points: readonly Settings[],
  basis: readonly Word[],
  blocks: number,
): number[] | undefined {
  if (blocks === 1) return undefined;
  const q = Math.log2(blocks);
  if (!Number.isInteger(q) || blocks > points.length / 2)
    throw new StudyError("bad-blocks.powers", { trials: points.length, blocks }, ["blocks"]);
  if (factors.some((f) => !isNumeric(f) && f.levels.length > 2))
    throw new StudyError("bad-blocks.two-levels", {}, ["blocks"]);
  const words = generateWords(basis);
  const rows = points.map((p) => factors.reduce((m, f, j) => (isHigh(f, p) ? m | (1 << j) : m), 0));
  const clear: { mask: number; counts: number[] }[] = [];
  // One representative of each alias class: products of the first independent factors.
  const seen = new Set<number>(words.map((w) => w.mask).concat(0));
  const limit = 2 ** factors.length;
  for (let mask = 1; mask < limit && clear.length < 4096; mask++) {
    if (seen.has(mask)) continue;
    seen.add(mask);
    for (const w of words) seen.add(w.mask ^ mask);
    const counts = classLengths(mask, words);
    if (counts[1] === 0) clear.push({ mask, counts });
  }
  const countsOf = new Map(clear.map((c) => [c.mask, c.counts]));
  const canonical = (mask: number): number[] | undefined =>
    countsOf.get(mask) ?? words.map((w) => countsOf.get(w.mask ^ mask)).find((c) => c !== undefined);
  clear.sort(
    (a, b) => a.counts[2] - b.counts[2] || a.counts[3] - b.counts[3] || wordLength(b.mask) - wordLength(a.mask),
  );
  let best: { chosen: number[]; score: [number, number] } | undefined;
  let looked = 0;
  const walk = (from: number, chosen: number[], group: number[]): void => {
    if (looked > 20000) return;
    if (chosen.length === q) {
      looked++;
      const score: [number, number] = [0, 0];
      for (const g of group) {
        const counts = canonical(g);
        if (!counts) return;
        score[0] += counts[2];
        score[1] += counts[3];
      }
      if (!best || score[0] < best.score[0] || (score[0] === best.score[0] && score[1] < best.score[1]))
        best = { chosen, score };
      return;
    }
    for (let i = from; i < clear.length; i++) {
      const mask = clear[i].mask;
      const added = [mask, ...group.map((g) => g ^ mask)];
      if (added.every((g) => g !== 0 && canonical(g) !== undefined))
        walk(i + 1, [...chosen, mask], [...group, ...added]);
    }
  };
  walk(0, [], []);
  if (!best) throw new StudyError("bad-blocks.main-effect", { trials: points.length, blocks }, ["blocks"]);
  const { chosen } = best;
  return rows.map((row) => chosen.reduce((b, mask, i) => b + (parity(mask & row) << i), 0));
}
