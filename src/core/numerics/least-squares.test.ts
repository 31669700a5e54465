import fc from "fast-check";
import { describe, expect, it } from "vitest";
import reference from "../testing/reference.json";
import { digits } from "../testing/studies";
import { leastSquares, type Matrix, quadraticForm, rankReport } from "./least-squares";

const matrixOf = (rows: number[][]): Matrix => ({
  rows: rows.length,
  cols: rows[0].length,
  data: Float64Array.from(rows.flat()),
});

// Data of the NIST statistical reference datasets; figures from exact fractions (scripts/reference/make.py).
describe.each([
  ["longley", 12],
  ["wampler1", 9],
  ["wampler2", 9],
  ["wampler3", 9],
  ["wampler4", 8],
  // Residuals 10,000 times the signal leave this much in double precision.
  ["wampler5", 8],
] as const)("%s", (name, least) => {
  const exact = reference[name];
  const fit = leastSquares(matrixOf(exact.x), exact.y);
  it(`coefficients agree to ${least} digits`, () =>
    exact.coefficients.forEach((b, j) => expect(digits(fit.coefficients[j], b)).toBeGreaterThan(least)));
  it("leverages agree to 9 digits", () =>
    exact.leverage.forEach((h, i) => expect(digits(fit.leverage[i], h)).toBeGreaterThan(9)));
  it("residual sum of squares", () => {
    if (Number(exact.rss) === 0) expect(fit.rss).toBeLessThan(1e-12 * exact.y.reduce((t, v) => t + v * v, 0));
    else expect(digits(fit.rss, exact.rss)).toBeGreaterThan(10);
  });
});

describe("rank", () => {
  it("drops a column that repeats earlier ones and says what it equals", () => {
    // Columns: constant, a, b, a·b and −a·b on a 2² factorial.
    const x = matrixOf([
      [1, -1, -1, 1, -1],
      [1, 1, -1, -1, 1],
      [1, -1, 1, -1, 1],
      [1, 1, 1, 1, -1],
    ]);
    expect(rankReport(x)).toEqual({
      rank: 4,
      kept: [0, 1, 2, 3],
      dropped: [{ column: 4, equals: [{ column: 3, factor: -1 }] }],
    });
  });
  it("a column of zeros equals nothing", () =>
    expect(
      rankReport(
        matrixOf([
          [1, 0],
          [1, 0],
        ]),
      ).dropped,
    ).toEqual([{ column: 1, equals: [] }]));
  it("keeps badly scaled columns that are independent", () =>
    expect(
      rankReport(
        matrixOf([
          [1, 1e9],
          [1, 2e9],
          [1, 4e9],
          [1, 7e9],
        ]),
      ).rank,
    ).toBe(2));
});

describe("invariants", () => {
  it("residuals are orthogonal to every column; leverages sum to the rank", () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(fc.integer({ min: -9, max: 9 }), fc.integer({ min: -9, max: 9 }), fc.integer({ min: -99, max: 99 })),
          {
            minLength: 6,
            maxLength: 20,
          },
        ),
        (rows) => {
          const x = matrixOf(rows.map(([a, b]) => [1, a, b]));
          if (rankReport(x).rank < 3) return;
          const fit = leastSquares(
            x,
            rows.map((r) => r[2]),
          );
          for (let j = 0; j < 3; j++)
            expect(Math.abs(fit.residuals.reduce((t, e, i) => t + e * x.data[i * 3 + j], 0))).toBeLessThan(1e-9);
          expect(fit.leverage.reduce((t, h) => t + h, 0)).toBeCloseTo(3, 9);
        },
      ),
      { seed: 7 },
    );
  });
  it("quadratic forms read both triangles", () =>
    expect(quadraticForm({ rows: 2, cols: 2, data: Float64Array.from([2, 1, 1, 3]) }, [1, 2])).toBe(18));
});
