import * as z from "zod";
import { generateWords, type Word, wordLength, wordText } from "../../appraisal/defining-words";
import { isNumeric } from "../../study/coding";
import { StudyError } from "../../study/error";
import { activeFactors, isHard } from "../../study/roles";
import type { Factor, Settings, Study } from "../../study/schema";
import { confoundedBlocks, isHigh } from "../blocks";
import { catalogueWords } from "../catalogue";
import { controls, type PlanOptions } from "../options";
import { defineFamily, type PlanFamily, spokenOf } from "../plan";
import { byFactors, setupContrasts, setupPowers, setupsBy, splitFraction } from "../split-fraction";

/** A generator: the factor it gives and the signed product of base factors it equals, by factor position. */
interface Generator {
  factor: number;
  mask: number;
  sign: 1 | -1;
}

/**
 * Reads "E=ABC, F=-BCD" in the study's letters.
 * @throws StudyError naming the part that cannot be read
 */
export function parseGenerators(factors: readonly Factor[], text: string): Generator[] {
  const path = ["generators"];
  const byLetter = factors.map((f, j) => ({ letter: f.letter, j })).sort((a, b) => b.letter.length - a.letter.length);
  const read = (part: string, whole: string): number[] => {
    const found: number[] = [];
    let rest = part;
    while (rest) {
      const hit = byLetter.find((l) => rest.startsWith(l.letter));
      if (!hit)
        throw new StudyError(
          "bad-generator.letter",
          { generator: whole, letter: rest[0], letters: factors.map((f) => f.letter) },
          path,
        );
      found.push(hit.j);
      rest = rest.slice(hit.letter.length);
    }
    return found;
  };
  const out = text
    .split(/[,;]/)
    .map((s) => s.replace(/\s+/g, ""))
    .filter(Boolean)
    .map((part): Generator => {
      const match = /^([A-Za-z0-9]+)=([+\-−]?)([A-Za-z0-9]+)$/.exec(part);
      if (!match) throw new StudyError("bad-generator.unreadable", { part }, path);
      const [factor, ...more] = read(match[1], part);
      if (more.length > 0) throw new StudyError("bad-generator.left", { part }, path);
      const right = read(match[3], part);
      if (new Set(right).size !== right.length) throw new StudyError("bad-generator.right", { part }, path);
      return {
        factor,
        mask: right.reduce((m, j) => m | (1 << j), 0),
        sign: match[2] === "-" || match[2] === "−" ? -1 : 1,
      };
    });
  const given = new Set(out.map((g) => g.factor));
  if (given.size !== out.length) throw new StudyError("bad-generator.twice", {}, path);
  for (const g of out)
    for (const j of given)
      if (g.mask & (1 << j))
        throw new StudyError(
          "bad-generator.generated",
          { factor: factors[g.factor].letter, other: factors[j].letter },
          path,
        );
  return out;
}

/**
 * Generators of a fraction in set-ups of the hard factors, and the products of factors that set them apart; undefined
 * where the set-ups asked for do not serve.
 */
function splitGenerators(
  factors: readonly Factor[],
  runs: number,
  asked: Pick<PlanOptions, "setups" | "setupSize">,
): { generators: Generator[]; apart: number[] } | undefined {
  const m = Math.log2(runs);
  const hard = factors.map(isHard);
  for (const b of setupPowers(m, asked)) {
    const columns = splitFraction(hard, m, b);
    if (!columns) continue;
    const { free, maskOf } = byFactors(columns);
    return {
      generators: columns.flatMap((c, j) =>
        free.includes(j) ? [] : [{ factor: j, mask: maskOf(c), sign: 1 as const }],
      ),
      apart: Array.from({ length: b }, (_, i) => maskOf(1 << i)),
    };
  }
  return undefined;
}

/** Products that set the set-ups of given generators apart; undefined where none serve. */
export function contrastsOf(
  factors: readonly Factor[],
  generators: readonly { factor: number; mask: number }[],
  asked: Pick<PlanOptions, "setups" | "setupSize">,
): readonly number[] | undefined {
  const given = new Map(generators.map((g) => [g.factor, g.mask]));
  const free = factors.map((_, j) => j).filter((j) => !given.has(j));
  const inFree = (mask: number): number => free.reduce((t, j, bit) => (mask & (1 << j) ? t | (1 << bit) : t), 0);
  const columns = factors.map((_, j) => inFree(given.get(j) ?? 1 << j));
  const m = free.length;
  for (const b of setupPowers(m, asked)) {
    const found = setupContrasts(columns, factors.map(isHard), m, b);
    if (found) return found.map((c) => free.reduce((t, j, bit) => (c & (1 << bit) ? t | (1 << j) : t), 0));
  }
  return undefined;
}

/** Which factors are high in each point, as bits. */
export const highFactors = (factors: readonly Factor[], points: readonly Settings[]): number[] =>
  points.map((p) => factors.reduce((m, f, j) => (isHigh(f, p) ? m | (1 << j) : m), 0));

const sizesFor = (k: number): number[] => [4, 8, 16, 32, 64, 128, 256].filter((n) => n > k && n < 2 ** k);

/** Regular two-level fractions, minimum aberration by default (Fries & Hunter 1980) or by the person's generators. */
export const fraction: PlanFamily = defineFamily({
  id: "fraction",
  label: "Fraction",
  subject: "A two-level fraction",
  options: {
    generators: z
      .string()
      .max(2000)
      .optional()
      .describe('own generators, such as "E=ABC,F=-BCD"')
      .register(controls, { label: "generators", control: "text", hint: "E=ABC, F=-BCD" }),
  },
  needsTrials: ({ generators }) => generators === undefined,
  purpose: () => "main",
  tells: "main+2fi",
  words: (o) => [o.generators],
  // Run twice, a smaller plan competes with larger ones.
  offers: (study, { replicates }) =>
    fraction.sizes(study).flatMap((trials) => [
      { trials, replicates },
      { trials, replicates: 2 * replicates },
    ]),

  unfit(study: Study) {
    const factors = activeFactors(study);
    if (factors.length < 3 || factors.length > 15)
      return { code: "factors", values: { family: spokenOf(this), fewest: 3, most: 15, have: factors.length } };
    const wide = factors.find((f) => !isNumeric(f) && f.levels.length > 2);
    if (wide && !isNumeric(wide))
      return { code: "two-levels", values: { family: spokenOf(this), factor: wide.name, levels: wide.levels.length } };
    return undefined;
  },
  sizes: (study) => sizesFor(activeFactors(study).length),
  build(study, options) {
    const factors = activeFactors(study);
    const k = factors.length;
    let generators: Generator[];
    let apart: readonly number[] | undefined;
    const most = (options.blocks ?? 1) === 1 ? options.setups : undefined;
    if (options.generators) {
      generators = parseGenerators(factors, options.generators);
      const runs = 2 ** (k - generators.length);
      if (generators.length === 0 || runs < 4)
        throw new StudyError("bad-generator.number", { generators: generators.length, runs, factors: k, most: k - 2 }, [
          "generators",
        ]);
      if (options.trials !== undefined && options.trials !== runs)
        throw new StudyError("bad-count.generators", { runs, trials: options.trials }, ["trials"]);
    } else {
      if (options.trials === undefined)
        throw new StudyError("bad-count.say-fraction", { sizes: sizesFor(k) }, ["trials"]);
      if (!sizesFor(k).includes(options.trials))
        throw new StudyError("bad-count.fraction", { factors: k, sizes: sizesFor(k), trials: options.trials }, [
          "trials",
        ]);
      const base = Math.log2(options.trials);
      const split =
        most === undefined || most >= options.trials ? undefined : splitGenerators(factors, options.trials, options);
      apart = split?.apart;
      generators =
        split?.generators ??
        catalogueWords(k, options.trials).map((mask, i) => ({ factor: base + i, mask, sign: 1 as const }));
    }
    const basis = generators.map((g): Word => ({ mask: g.mask | (1 << g.factor), sign: g.sign }));
    const short = generateWords(basis).find((w) => wordLength(w.mask) < 3);
    if (short)
      throw new StudyError(
        "short-word",
        {
          word: wordText(
            short,
            factors.map((f) => f.letter),
          ),
        },
        ["generators"],
      );
    const generated = new Set(generators.map((g) => g.factor));
    const free = factors.map((_, j) => j).filter((j) => !generated.has(j));
    const points = Array.from({ length: 2 ** free.length }, (_, i) => {
      const signs = new Array<number>(k).fill(1);
      free.forEach((j, bit) => {
        signs[j] = (i >> bit) & 1 ? 1 : -1;
      });
      for (const g of generators) {
        let product: number = g.sign;
        for (const j of free) if (g.mask & (1 << j)) product *= signs[j];
        signs[g.factor] = product;
      }
      const point: Settings = {};
      factors.forEach((f, j) => {
        point[f.id] = isNumeric(f) ? signs[j] : f.levels[signs[j] > 0 ? 1 : 0];
      });
      return point;
    });
    if (options.generators && most !== undefined && most < points.length)
      apart = contrastsOf(factors, generators, options);
    const letters = factors.map((f) => f.letter);
    const text = generators.map((g) => `${letters[g.factor]}=${wordText(g, letters)}`).join(",");
    const blocks = confoundedBlocks(factors, points, basis, options.blocks ?? 1);
    return {
      points,
      kind: "factorial",
      recipe: { generators: text },
      ...(blocks ? { blocks } : {}),
      ...(apart ? { setups: setupsBy(apart, highFactors(factors, points)) } : {}),
    };
  },
});
