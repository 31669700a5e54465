import type { Random } from "../../numerics/random";
import { isNumeric } from "../../study/coding";
import { StudyError } from "../../study/error";
import { activeFactors } from "../../study/roles";
import type { Factor, Settings, Study, TrialKind } from "../../study/schema";
import { hasMiddle } from "../combinations";
import { conferenceMatrix } from "../hadamard";
import { defineFamily, type PlanFamily, spokenOf } from "../plan";
import { invert } from "../search/exchange";

/** Orders of conference matrices used: even, none of 22, up to two fake factors past sixteen. */
const ORDERS = [4, 6, 8, 10, 12, 14, 16, 18];

/** Two levels only: categories and listed pairs of values, which have no middle. */
const twoLevel = (f: Factor): boolean => !isNumeric(f) || !hasMiddle(f);

const runsOf = (order: number, two: boolean): number => 2 * order + (two ? 2 : 1);

/** An entry that the conference matrix leaves free, with its fold-over: the two always have opposite signs. */
interface FreePair {
  row: number;
  fold: number;
  column: number;
}

/**
 * Sets the free entries of two-level factors (where the conference matrix has its zero, and at the centre) to the
 * signs that make the main effects best estimable: the largest |X′X|, signs turned one at a time from random starts.
 * Each run keeps its fold-over in every column, so that main effects stay clear of all second-order terms.
 */
function fillFree(rows: number[][], free: readonly FreePair[], random: Random): void {
  const set = ({ row, fold, column }: FreePair, sign: number): void => {
    rows[row][column] = sign;
    rows[fold][column] = -sign;
  };
  const n = rows.length;
  const k = rows[0].length;
  const p = k + 1;
  const inverse = new Float64Array(p * p);
  const score = (): number => {
    const m = new Float64Array(p * p);
    for (let i = 0; i < n; i++)
      for (let a = 0; a < p; a++)
        for (let b = 0; b < p; b++) m[a * p + b] += (a === 0 ? 1 : rows[i][a - 1]) * (b === 0 ? 1 : rows[i][b - 1]);
    return invert(m, p, inverse) ?? Number.NEGATIVE_INFINITY;
  };
  let best = { score: Number.NEGATIVE_INFINITY, signs: free.map(() => 1) };
  for (let start = 0; start < 12; start++) {
    for (const f of free) set(f, random.below(2) === 0 ? -1 : 1);
    let now = score();
    for (let moved = true; moved; ) {
      moved = false;
      for (const f of free) {
        set(f, -rows[f.row][f.column]);
        const next = score();
        if (next > now + 1e-10) {
          now = next;
          moved = true;
        } else set(f, -rows[f.row][f.column]);
      }
    }
    if (now > best.score + 1e-10) best = { score: now, signs: free.map((f) => rows[f.row][f.column]) };
  }
  free.forEach((f, i) => {
    set(f, best.signs[i]);
  });
}

/**
 * Definitive screening (Jones & Nachtsheim 2011) from conference matrices (Xiao, Lin & Bai 2012): main effects clear of
 * interactions and squares in 2m + 1 runs; two-level factors by augmentation (Jones & Nachtsheim 2013) in 2m + 2,
 * fold-over pairs kept.
 */
export const definitive: PlanFamily = defineFamily({
  id: "definitive",
  label: "Definitive screening",
  options: {},
  purpose: () => "main",

  unfit(study) {
    const factors = activeFactors(study);
    if (factors.length < 4 || factors.length > 16)
      return { code: "factors", values: { family: spokenOf(this), fewest: 4, most: 16, have: factors.length } };
    const wide = factors.find((f) => !isNumeric(f) && f.levels.length > 2);
    if (wide && !isNumeric(wide))
      return { code: "two-levels", values: { family: spokenOf(this), factor: wide.name, levels: wide.levels.length } };
    const two = factors.filter(twoLevel).length;
    if (factors.length - two < 3)
      return { code: "middles", values: { family: spokenOf(this), least: 3, have: factors.length - two } };
    return undefined;
  },
  sizes(study) {
    const factors = activeFactors(study);
    const two = factors.some(twoLevel);
    // The smallest, and with two and four fake factors for more degrees of freedom.
    return ORDERS.filter((m) => m >= factors.length)
      .slice(0, 3)
      .map((m) => runsOf(m, two));
  },
  build(study: Study, options, random) {
    const factors = activeFactors(study);
    const k = factors.length;
    const two = factors.some(twoLevel);
    const orders = ORDERS.filter((m) => m >= k);
    const order = options.trials === undefined ? orders[0] : orders.find((m) => runsOf(m, two) === options.trials);
    if (order === undefined)
      throw new StudyError(
        "bad-count.definitive",
        { factors: k, sizes: orders.map((m) => runsOf(m, two)), trials: options.trials ?? null },
        ["trials"],
      );
    const conference = conferenceMatrix(order);
    const rows: number[][] = [];
    for (const row of conference) {
      rows.push(row.slice(0, k));
      rows.push(row.slice(0, k).map((v) => (v === 0 ? 0 : -v)));
    }
    for (let i = 0; i < (two ? 2 : 1); i++) rows.push(new Array<number>(k).fill(0));
    const kinds: TrialKind[] = rows.map((_, i) => (i < 2 * order ? "screen" : "centre"));
    // Runs stand in pairs, each beside its fold-over; so do the two at the centre.
    const free = rows.flatMap((row, i) =>
      i % 2 === 0
        ? row.flatMap((v, j) => (v === 0 && twoLevel(factors[j]) ? [{ row: i, fold: i + 1, column: j }] : []))
        : [],
    );
    if (free.length > 0) fillFree(rows, free, random);
    const points = rows.map((row) => {
      const point: Settings = {};
      factors.forEach((f, j) => {
        point[f.id] = isNumeric(f) ? row[j] : f.levels[row[j] > 0 ? 1 : 0];
      });
      return point;
    });
    return { points, kind: "screen", kinds };
  },
});
