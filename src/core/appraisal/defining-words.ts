/**
 * Words of regular two-level plans as bit masks: bit j stands for factor j. A word's sign says whether the
 * product of its columns is +1 or −1 on every run (Box, Hunter & Hunter 2005, chapters 6 and 7).
 */

export interface Word {
  mask: number;
  sign: 1 | -1;
}

/** Number of letters in a word. */
export function wordLength(mask: number): number {
  let count = 0;
  for (let m = mask; m; m &= m - 1) count++;
  return count;
}

const parity = (mask: number): number => wordLength(mask) & 1;

/** All words that the given ones generate, the identity left out, by length then by letters. */
export function generateWords(basis: readonly Word[]): Word[] {
  let all: Word[] = [{ mask: 0, sign: 1 }];
  for (const word of basis)
    all = [...all, ...all.map((w): Word => ({ mask: w.mask ^ word.mask, sign: (w.sign * word.sign) as 1 | -1 }))];
  return all
    .filter((w) => w.mask !== 0)
    .sort((a, b) => wordLength(a.mask) - wordLength(b.mask) || reversedOrder(a.mask, b.mask));
}

/** Orders masks of one length as their letters would be in a dictionary. */
function reversedOrder(a: number, b: number): number {
  const lowest = (a ^ b) & -(a ^ b);
  return a === b ? 0 : a & lowest ? -1 : 1;
}

/** Counts of words by length from 3 to the number of factors. */
export function wordLengthPattern(words: readonly Word[], factors: number): number[] {
  const pattern = new Array<number>(Math.max(0, factors - 2)).fill(0);
  for (const w of words) {
    const length = wordLength(w.mask);
    if (length >= 3) pattern[length - 3]++;
  }
  return pattern;
}

/** A regular set of runs: an affine subspace of the corners. */
export interface RegularPlan {
  factors: number;
  /** Generating words of the defining relation; none for a full factorial. */
  basis: Word[];
  /** Directions that span the runs. */
  span: number[];
  /** Bits of one run. */
  origin: number;
}

/**
 * Finds the defining relation of a set of runs from the runs themselves.
 *
 * @param rows one number per run; bit j is 1 where factor j is high
 * @returns undefined when the distinct runs are not a regular fraction
 */
export function findRegular(rows: readonly number[], factors: number): RegularPlan | undefined {
  if (rows.length === 0 || factors > 30) return undefined;
  const origin = rows[0];
  const distinct = new Set(rows);
  // Reduced row echelon form over two elements of the differences from the first run.
  const span: number[] = [];
  for (const row of distinct) {
    let d = row ^ origin;
    for (const s of span) if (d & leadingBit(s)) d ^= s;
    if (d === 0) continue;
    for (let i = 0; i < span.length; i++) if (span[i] & leadingBit(d)) span[i] ^= d;
    span.push(d);
  }
  if (distinct.size !== 2 ** span.length) return undefined;
  const leads = span.map(leadingBit);
  const basis: Word[] = [];
  for (let j = 0; j < factors; j++) {
    const bit = 1 << j;
    if (leads.includes(bit)) continue;
    // The word of free factor j: itself and the leading factors of the directions it appears in.
    let mask = bit;
    span.forEach((s, i) => {
      if (s & bit) mask |= leads[i];
    });
    basis.push({ mask, sign: signAt(mask, origin) });
  }
  return { factors, basis, span, origin };
}

const leadingBit = (mask: number): number => 1 << (31 - Math.clz32(mask));

/** Product of the ±1 columns in the mask at a run given by its bits. */
const signAt = (mask: number, run: number): 1 | -1 => ((wordLength(mask) - wordLength(mask & run)) % 2 === 0 ? 1 : -1);

/**
 * Groups effects that one estimate cannot tell apart.
 *
 * @param masks effects, in the order they should stand
 * @returns chains with the sign of each member against the first; single effects are chains of one
 */
export function chainsOf(
  plan: RegularPlan,
  masks: readonly number[],
): { members: { mask: number; sign: 1 | -1 }[]; constant: boolean }[] {
  const byClass = new Map<string, { mask: number; sign: 1 | -1 }[]>();
  const nothing = plan.span.map(() => 0).join("");
  for (const mask of masks) {
    const key = plan.span.map((s) => parity(mask & s)).join("");
    const chain = byClass.get(key);
    const sign = signAt(mask, plan.origin);
    if (!chain) byClass.set(key, [{ mask, sign: 1 }]);
    else chain.push({ mask, sign: (sign * signAt(chain[0].mask, plan.origin)) as 1 | -1 });
  }
  return [...byClass].map(([key, members]) => ({ members, constant: key === nothing }));
}

/** A word in letters with a minus in front where it is negative. */
export function wordText(word: Word, letters: readonly string[]): string {
  let text = word.sign < 0 ? "-" : "";
  letters.forEach((letter, j) => {
    if (word.mask & (1 << j)) text += letter;
  });
  return text;
}

/**
 * The fractions of the same family that a regular plan leaves out, each by its signed generators: every choice of
 * signs but the plan's own. Running one of them doubles the plan.
 *
 * @param generators as a recipe has them, such as "E=ABC,F=-BCD"
 */
export function missingFractions(generators: string): string[] {
  const parts = generators.split(/[,;]/).map((g) => /^\s*([^=]+)=([+\-\u2212]?)(.+?)\s*$/.exec(g));
  if (parts.length === 0 || parts.length > 8 || parts.some((p) => p === null)) return [];
  const read = parts as RegExpExecArray[];
  return Array.from({ length: 2 ** read.length - 1 }, (_, i) =>
    read
      .map(([, factor, sign, word], j) => {
        const turned = (((i + 1) >> j) & 1) === 1;
        const negative = (sign === "-" || sign === "\u2212") !== turned;
        return `${factor.trim()}=${negative ? "-" : ""}${word}`;
      })
      .join(","),
  );
}
