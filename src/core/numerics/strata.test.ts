import { describe, expect, it } from "vitest";
import { regress } from "../testing/elimination";
import { groupingOf } from "./mixed";
import { betweenDfOf, beyondSetups, withinSetups } from "./strata";

const matrixOf = (rows: readonly (readonly number[])[]) => ({
  rows: rows.length,
  cols: rows[0].length,
  data: Float64Array.from(rows.flat()),
});
/** Six set-ups of four: a hard ±1, x and z easy ±1, each set-up holding every pair of both. */
const names = Array.from({ length: 24 }, (_, i) => `s${Math.floor(i / 4)}`);
const a = names.map((_, i) => (Math.floor(i / 4) % 2 === 0 ? -1 : 1));
const x = names.map((_, i) => (i % 2 === 0 ? -1 : 1));
const z = names.map((_, i) => (i % 4 < 2 ? -1 : 1));
const groups = groupingOf(names);
const columns = (...of: number[][]) => matrixOf(names.map((_, i) => [1, ...of.map((c) => c[i])]));

describe("what is told between set-ups and within them", () => {
  it.each([
    ["a hard factor and an easy one", columns(a, x), 1, 4],
    [
      "an interaction of both is told within",
      columns(
        a,
        x,
        a.map((v, i) => v * x[i]),
      ),
      2,
      4,
    ],
    ["nothing but the constant", columns(), 0, 5],
    [
      "an easy factor that stayed in every set-up stands between",
      columns(
        a,
        names.map((_, i) => Math.floor(i / 8)),
      ),
      0,
      3,
    ],
    [
      "two columns alike within, apart between: one of them is told there",
      columns(
        x,
        x.map((v, i) => v + a[i]),
      ),
      1,
      4,
    ],
    [
      "a hard factor set a little off each time",
      columns(
        a.map((v, i) => v + (i % 4 === 3 ? 1e-4 : 0)),
        x,
        z,
      ),
      3,
      5,
    ],
    [
      "rounding alone is no difference",
      columns(
        a.map((v) => 0.1 * v + 0.2),
        x,
      ),
      1,
      4,
    ],
  ])("%s", (_, matrix, within, between) => {
    expect(withinSetups(groups, matrix).cols).toBe(within);
    expect(betweenDfOf(groups, matrix)).toBe(between);
  });
  it("leaves what set-ups and columns together leave, as if set-ups were columns", () => {
    const y = names.map((_, i) => Math.sin(7 * i) + x[i] + Math.floor(i / 4));
    const wide = names.map((_, i) => [
      ...[0, 1, 2, 3, 4, 5].map((g) => (Math.floor(i / 4) === g ? 1 : 0)),
      x[i],
      z[i],
      a[i] * z[i],
    ]);
    const { rss, rank } = beyondSetups(
      groups,
      columns(
        a,
        x,
        z,
        a.map((v, i) => v * z[i]),
      ),
      y,
    );
    expect(rank).toBe(9);
    expect(rss).toBeCloseTo(regress(wide, y).rss, 10);
    // A constant alone: what differs within set-ups.
    const alone = names.map((_, i) => [0, 1, 2, 3, 4, 5].map((g) => (Math.floor(i / 4) === g ? 1 : 0)));
    expect(beyondSetups(groups, columns(), y).rss).toBeCloseTo(regress(alone, y).rss, 10);
  });
});
