import * as z from "zod";
import { generateWords, type Word, wordLength } from "../../appraisal/defining-words";
import { code, isNumeric, rangeOf } from "../../study/coding";
import { StudyError } from "../../study/error";
import { activeFactors, isHard } from "../../study/roles";
import type { Factor, NumericFactor, Settings, Study, TrialKind } from "../../study/schema";
import { confoundedBlocks } from "../blocks";
import { catalogueWords } from "../catalogue";
import { categoryCombinations, hasMiddle, kindsOf, numericOf } from "../combinations";
import { controls } from "../options";
import { defineFamily, type PlanFamily, spokenOf } from "../plan";
import { splitPoints } from "../second-order-setups";

/**
 * Generators of the smallest fraction of k factors that keeps mains and two-factor interactions apart (resolution V).
 */
function fractionOf(k: number): Word[] {
  if (k < 5) return [];
  const runs = ({ 5: 16, 6: 32, 7: 64, 8: 64 } as Record<number, number>)[k];
  const base = Math.log2(runs);
  return catalogueWords(k, runs).map((mask, i): Word => ({ mask: mask | (1 << (base + i)), sign: 1 }));
}

/** Corners of k factors, signs by the generators. */
function cube(k: number, basis: readonly Word[]): number[][] {
  const base = k - basis.length;
  return Array.from({ length: 2 ** base }, (_, i) => {
    const signs = Array.from({ length: k }, (__, j): number => (j < base && (i >> j) & 1 ? 1 : -1));
    for (let g = 0; g < basis.length; g++) {
      let product: number = basis[g].sign;
      for (let j = 0; j < base; j++) if (basis[g].mask & (1 << j)) product *= signs[j];
      signs[base + g] = product;
    }
    return signs;
  });
}

const cubes = (k: number): { runs: number; basis: Word[] }[] => {
  const fraction = fractionOf(k);
  const full = { runs: 2 ** k, basis: [] };
  return fraction.length > 0 ? [{ runs: 2 ** (k - fraction.length), basis: fraction }, full] : [full];
};

/** Farthest coded distance every factor may be run at, both ways; hard limits where given, else its range. */
function reach(factors: readonly NumericFactor[]): { distance: number; by: NumericFactor } {
  let distance = Number.POSITIVE_INFINITY;
  let by = factors[0];
  for (const f of factors) {
    const [low, high] = rangeOf(f);
    const reach = f.kind === "discrete" ? 1 : Math.min(code(f, f.hardHigh ?? high), -code(f, f.hardLow ?? low));
    if (reach < distance - 1e-12) {
      distance = reach;
      by = f;
    }
  }
  return { distance, by };
}

/** What the axial distance is worked out from. */
interface Frame {
  factors: readonly NumericFactor[];
  /** Corner runs of one copy. */
  corners: number;
  /** Copies that share their blocks; one unless said. */
  copies?: number;
  centreCorners: number;
  centreAxial: number;
}

/**
 * Refuses numbers of centre points that leave the blocks of corners with different ones, since then no distance makes
 * the blocks orthogonal.
 * @throws StudyError `bad-count`, naming the numbers nearest that can
 */
function refuseUneven(centre: number, blocks: number, unevenCopies: boolean): void {
  if (unevenCopies) throw new StudyError("bad-count.centre-copies", {}, ["centre"]);
  const rest = centre % blocks;
  if (rest === 0 || rest === blocks - 1) return;
  const below = centre - rest;
  throw new StudyError(
    "bad-count.centre-blocks",
    { centre, corners: blocks - 1, fewer: below, more: below + blocks - 1 },
    ["centre"],
  );
}

/**
 * Coded axial distance: rotatable F^¼ (Box & Hunter 1957), spherical √k, face 1, orthogonal to blocks
 * α² = F·r(2k·r + n_a0)/(2r(F·r + n_c0)) with r copies in one block; left out, rotatable but no farther than the limits
 * allow.
 * @throws StudyError `bad-axial`, `axial-too-far`
 */
export function axialDistance(
  { factors, corners, copies = 1, centreCorners, centreAxial }: Frame,
  asked: string | number | undefined,
  shrink: boolean,
): number {
  const k = factors.length;
  const rotatable = corners ** 0.25;
  const { distance, by } = reach(factors);
  // Drawn in, the plan keeps to low and high whatever the distance.
  if (shrink && (asked === undefined || asked === "rotatable")) return rotatable;
  // Without hard limits nothing is known to lie beyond low and high, so nothing is planned there unasked.
  if (asked === undefined) return Math.max(1, Math.min(rotatable, distance));
  const number = typeof asked === "number" ? asked : Number(asked);
  const alpha =
    asked === "rotatable"
      ? rotatable
      : asked === "spherical"
        ? Math.sqrt(k)
        : asked === "face"
          ? 1
          : asked === "orthogonal-blocks"
            ? Math.sqrt((corners * (2 * k * copies + centreAxial)) / (2 * (corners * copies + centreCorners)))
            : number;
  if (!(alpha > 0 && alpha <= 10)) throw new StudyError("bad-axial", { asked: String(asked) }, ["axial"]);
  const stated = factors.some((f) => f.kind === "discrete" || f.hardLow !== undefined || f.hardHigh !== undefined);
  const bound = reach(
    factors.filter((f) => f.kind === "discrete" || f.hardLow !== undefined || f.hardHigh !== undefined),
  );
  if (!shrink && stated && alpha > bound.distance * (1 + 1e-9) && alpha > 1)
    throw new StudyError("axial-too-far", { alpha, factor: (bound.by ?? by).name, distance: bound.distance }, [
      "axial",
    ]);
  return alpha;
}

const FEWEST = 2;
const MOST = 8;

/** Corners and axial points of all categories, with what kind and which corner each is. */
interface Stand {
  points: Settings[];
  kinds: TrialKind[];
  /** Number of the corner; −1 for axial points. */
  corner: number[];
}

/** @param corners signs of each corner; drawn in by `scale` */
function standing(factors: readonly Factor[], corners: readonly number[][], alpha: number, scale: number): Stand {
  const numeric = numericOf(factors);
  const out: Stand = { points: [], kinds: [], corner: [] };
  const add = (point: Settings, kind: TrialKind, corner: number): void => {
    out.points.push(point);
    out.kinds.push(kind);
    out.corner.push(corner);
  };
  for (const category of categoryCombinations(factors)) {
    corners.forEach((signs, i) => {
      const point = Object.fromEntries(numeric.map((f, j) => [f.id, scale * signs[j]]));
      add({ ...category, ...point }, "factorial", i);
    });
    for (const f of numeric)
      for (const sign of [-1, 1]) {
        const point: Settings = { ...category };
        for (const other of numeric) point[other.id] = other === f ? sign * alpha * scale : 0;
        add(point, "axial", -1);
      }
  }
  return out;
}

/** Trials of the plans in set-ups of the hard factors, by which cube they have; none where no factor is hard. */
const splitSizes = (study: Study): number[] => {
  const factors = activeFactors(study);
  if (!factors.some(isHard)) return [];
  const k = numericOf(factors).length;
  return cubes(k).map((c) => splitPoints(factors, standing(factors, cube(k, c.basis), 1, 1).points).points.length);
};

/** Where axial points stand; asked of composite plans and of axial waves alike. */
export const axialOption = z
  .union([z.number(), z.string().max(40)])
  .optional()
  .describe("rotatable, spherical, face, orthogonal-blocks, or a number")
  .register(controls, {
    label: "axial points",
    control: "choice",
    choices: [
      ["", "as far as the limits allow"],
      ["rotatable", "rotatable"],
      ["spherical", "spherical"],
      ["face", "on the faces"],
      ["orthogonal-blocks", "orthogonal to blocks"],
    ],
    other: { words: "own distance", label: "Axial distance", hint: "1.4" },
  });

/** Second-order plans of corners, axial points and centre points (Box & Wilson 1951), categories crossed. */
export const composite: PlanFamily = defineFamily({
  id: "composite",
  label: "Central composite",
  subject: "A central composite plan",
  carries: {
    suits(factors) {
      const numeric = factors.filter(isNumeric);
      return numeric.length >= FEWEST && numeric.length <= MOST && numeric.every(hasMiddle);
    },
    centre: 3,
  },
  options: {
    axial: axialOption,
    shrink: z
      .boolean()
      .optional()
      .describe("drawn in until its axial points stand at low and high")
      .register(controls, { label: "drawn in to the range", control: "switch" }),
  },
  purpose: () => "quadratic",
  words: (o) => [
    o.shrink ? "drawn in" : undefined,
    o.axial === undefined ? undefined : `axial ${typeof o.axial === "number" ? o.axial : o.axial.replace("-", " ")}`,
  ],

  unfit(study) {
    const factors = activeFactors(study);
    const numeric = numericOf(factors);
    if (numeric.length < FEWEST || numeric.length > MOST)
      return {
        code: "numeric-factors",
        values: { family: spokenOf(this), fewest: FEWEST, most: MOST, ...kindsOf(factors) },
      };
    const stuck = numeric.find((f) => !hasMiddle(f));
    if (stuck) return { code: "middle", values: { family: spokenOf(this), factor: stuck.name } };
    return undefined;
  },
  sizes(study) {
    const factors = activeFactors(study);
    const k = numericOf(factors).length;
    const plain = cubes(k).map((c) => (c.runs + 2 * k) * categoryCombinations(factors).length);
    return [...new Set([...plain, ...splitSizes(study)])];
  },
  build(study: Study, options) {
    const factors = activeFactors(study);
    const numeric = numericOf(factors);
    const k = numeric.length;
    const sizes = composite.sizes(study);
    const { trials } = options;
    const blocks = options.blocks ?? 1;
    const apart = splitSizes(study);
    if (trials !== undefined && !sizes.includes(trials))
      throw new StudyError("bad-count.composite", { sizes, trials }, ["trials"]);
    // In set-ups the plan has more trials: that many, or no number, ask for it so.
    const place = trials === undefined ? 0 : sizes.indexOf(trials);
    const splits = blocks === 1 && options.setups !== undefined && (trials === undefined || apart.includes(trials));
    const which = splits && trials !== undefined ? apart.indexOf(trials) : place % cubes(k).length;
    const { basis } = cubes(k)[which];
    const corners = cube(k, basis);
    const cubeBlocks = blocks - 1;
    if (blocks > 1 && cubeBlocks > 1 && k === 2) throw new StudyError("bad-blocks.composite-two", {}, ["blocks"]);
    const combinations = categoryCombinations(factors);
    const coded = corners.map((signs) => Object.fromEntries(numeric.map((f, j) => [f.id, signs[j]])));
    let cubeSplit: number[] | undefined;
    if (cubeBlocks > 1) {
      cubeSplit = confoundedBlocks(numeric, coded, basis, cubeBlocks);
      const clear = splitIsClear(k, basis, coded, numeric, cubeSplit ?? []);
      if (!clear)
        throw new StudyError("bad-blocks.interaction", { corners: corners.length, blocks: cubeBlocks }, ["blocks"]);
    }
    // Centre points are dealt to the blocks in turn, corners first, axial points last.
    const centre = options.centre ?? 0;
    const copies = options.replicates ?? 1;
    const inAxial = blocks > 1 ? Math.floor(centre / blocks) : 0;
    if (options.axial === "orthogonal-blocks" && blocks > 1)
      refuseUneven(centre, blocks, options.unevenCopies === true);
    const alpha = axialDistance(
      {
        factors: numeric,
        corners: corners.length,
        copies,
        centreCorners: (centre - inAxial) / combinations.length,
        centreAxial: inAxial / combinations.length,
      },
      options.axial,
      options.shrink === true,
    );
    const scale = options.shrink ? 1 / Math.max(1, alpha) : 1;
    const stand = standing(factors, corners, alpha, scale);
    const stated = options.axial !== undefined;
    const split = splits ? splitPoints(factors, stand.points) : undefined;
    return {
      points: split?.points ?? stand.points,
      kind: "factorial",
      kinds: split?.from.map((i) => stand.kinds[i]) ?? stand.kinds,
      ...(blocks > 1 ? { blocks: stand.corner.map((c) => (c < 0 ? blocks - 1 : (cubeSplit?.[c] ?? 0))) } : {}),
      ...(split ? { setups: split.setups } : {}),
      recipe: {
        ...(stated ? { axial: options.axial } : {}),
        ...(options.shrink ? { shrink: true } : {}),
      },
    };
  },
});

/** Whether every main effect and two-factor interaction of the corners is orthogonal to how they are split. */
function splitIsClear(
  k: number,
  basis: readonly Word[],
  points: readonly Settings[],
  factors: readonly NumericFactor[],
  split: readonly number[],
): boolean {
  const words = generateWords(basis);
  if (words.some((w) => wordLength(w.mask) < 5)) return false;
  const blocks = Math.max(...split) + 1;
  for (let a = 0; a < k; a++)
    for (let b = a; b < k; b++)
      for (let block = 0; block < blocks; block++) {
        let sum = 0;
        points.forEach((p, i) => {
          if (split[i] === block) sum += (p[factors[a].id] as number) * (a === b ? 1 : (p[factors[b].id] as number));
        });
        if (sum !== 0) return false;
      }
  return true;
}
