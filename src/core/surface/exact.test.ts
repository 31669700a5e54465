import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { equationOf } from "../model/equation";
import { fitModel } from "../model/fit";
import type { Settings, Study, Term } from "../study/schema";
import { parseStudy } from "../study/validate";
import { determinant, solve } from "../testing/elimination";
import { exactStudy } from "../testing/studies";
import { presentPredictor } from "./average";
import { importanceOf } from "./importance";
import { stationaryPoint } from "./stationary";

// Surfaces that are known: a second-order polynomial of three factors is reproduced by its trials without error, and
// what is read off it is worked out again from its coefficients by elimination or in closed form.

const coefficient = fc.double({ min: -3, max: 3, noNaN: true });
const surface = fc.record({
  constant: coefficient,
  linear: fc.tuple(coefficient, coefficient, coefficient),
  squares: fc.tuple(coefficient, coefficient, coefficient),
  pairs: fc.tuple(coefficient, coefficient, coefficient),
});
type Surface = typeof surface extends fc.Arbitrary<infer T> ? T : never;
const PAIRS = [
  [0, 1],
  [0, 2],
  [1, 2],
] as const;
const heightAt = (s: Surface, x: readonly number[]): number =>
  s.constant +
  x.reduce((t, v, i) => t + s.linear[i] * v + s.squares[i] * v * v, 0) +
  PAIRS.reduce((t, [i, j], k) => t + s.pairs[k] * x[i] * x[j], 0);
/** B of b₀ + x′b + x′Bx. */
const matrix = (s: Surface): number[][] => {
  const b = [0, 1, 2].map((i) => [0, 1, 2].map((j) => (i === j ? s.squares[i] : 0)));
  PAIRS.forEach(([i, j], k) => {
    b[i][j] = b[j][i] = s.pairs[k] / 2;
  });
  return b;
};
const studyOf = (s: Surface): Study =>
  exactStudy(3, [{ goal: { aim: "raise", low: 0, high: 10 }, of: (x) => heightAt(s, x) }]);
const middle: Settings = { a: 0, b: 0, c: 0 };

describe("a second-order surface", () => {
  it("is read back as its polynomial, and predicted anywhere", () => {
    fc.assert(
      fc.property(surface, fc.tuple(coefficient, coefficient, coefficient), (s, x) => {
        // A response that never moves is refused.
        fc.pre([...s.linear, ...s.squares, ...s.pairs].some((v) => Math.abs(v) > 0.01));
        const study = studyOf(s);
        const predictor = presentPredictor(study, "y0");
        const q = predictor.quadratic(middle);
        expect(q?.ids).toEqual(["a", "b", "c"]);
        expect(q?.constant).toBeCloseTo(s.constant, 9);
        s.linear.forEach((v, i) => {
          expect(q?.linear[i]).toBeCloseTo(v, 9);
        });
        matrix(s)
          .flat()
          .forEach((v, i) => {
            expect(q?.square[i]).toBeCloseTo(v, 9);
          });
        expect(predictor.value({ a: x[0], b: x[1], c: x[2] })).toBeCloseTo(heightAt(s, x), 8);
      }),
      { numRuns: 30 },
    );
  });
  it("is level where 2Bx = −b, with the sum and product of B's eigenvalues", () => {
    fc.assert(
      fc.property(surface, (s) => {
        const b = matrix(s);
        const det = determinant(b);
        // Far from ridges, whose stationary point is of no use anyway.
        fc.pre(Math.abs(det) > 0.05);
        const x = solve(
          b.map((row) => row.map((v) => 2 * v)),
          s.linear.map((v) => -v),
        );
        const study = studyOf(s);
        const found = stationaryPoint(study, presentPredictor(study, "y0"), middle).stationary;
        ["a", "b", "c"].forEach((id, i) => {
          expect(found?.coded[id]).toBeCloseTo(x[i], 6);
        });
        expect(found?.value).toBeCloseTo(heightAt(s, x), 6);
        expect(found?.distance).toBeCloseTo(Math.hypot(...x), 6);
        const e = found?.eigenvalues ?? [];
        expect(e.reduce((t, v) => t + v, 0)).toBeCloseTo(s.squares[0] + s.squares[1] + s.squares[2], 8);
        expect(e.reduce((t, v) => t * v, 1)).toBeCloseTo(det, 8);
        // Each direction is one of B's own: Bv = λv, of length 1.
        (found?.directions ?? []).forEach((d, k) => {
          const v = ["a", "b", "c"].map((id) => d[id]);
          expect(Math.hypot(...v)).toBeCloseTo(1, 9);
          b.forEach((row, i) => {
            expect(row.reduce((t, w, j) => t + w * v[j], 0)).toBeCloseTo(e[k] * v[i], 8);
          });
        });
        const smallest = Math.min(...e.map(Math.abs)) / Math.max(...e.map(Math.abs));
        if (smallest > 0.05)
          expect(found?.nature).toBe(e.every((v) => v < 0) ? "maximum" : e.every((v) => v > 0) ? "minimum" : "saddle");
        else expect(found?.nature).toBe("ridge");
        // Within rounding of an edge it may be called either.
        if (x.every((v) => Math.abs(Math.abs(v) - 1) > 1e-6))
          expect(found?.inside).toBe(x.every((v) => Math.abs(v) < 1));
      }),
      { numRuns: 40 },
    );
  });
  it("owes its variation to each factor by b²/3, b²·4/45 and b²/9", () => {
    // Var x = 1/3, Var x² = 1/5 − 1/9 = 4/45, Var x·y = 1/9, all at right angles over the cube (Sobol' 1993).
    fc.assert(
      fc.property(surface, (s) => {
        const alone = [0, 1, 2].map((i) => s.linear[i] ** 2 / 3 + (4 * s.squares[i] ** 2) / 45);
        const shared = s.pairs.map((v) => v ** 2 / 9);
        const total = [...alone, ...shared].reduce((t, v) => t + v, 0);
        fc.pre(total > 0.01);
        const study = studyOf(s);
        const rows = importanceOf(study, presentPredictor(study, "y0")).rows;
        expect(rows.map((r) => r.factor)).toEqual(["a", "b", "c"]);
        rows.forEach((r, i) => {
          expect(r.first).toBeCloseTo(alone[i] / total, 9);
          const mine = PAIRS.reduce((t, pair, k) => t + ((pair as readonly number[]).includes(i) ? shared[k] : 0), 0);
          expect(r.total).toBeCloseTo((alone[i] + mine) / total, 9);
        });
      }),
      { numRuns: 40 },
    );
  });
});

describe("the equation in natural units", () => {
  const factors = [
    { id: "t", name: "Temperature", kind: "continuous" as const, low: 40, high: 60 },
    { id: "d", name: "Dose", kind: "continuous" as const, low: 1, high: 100, scale: "log" as const },
    { id: "k", name: "Kind", kind: "categorical" as const, levels: ["x", "y", "z"] },
  ];
  const points = [40, 50, 60].flatMap((t) => [1, 10, 100].flatMap((d) => ["x", "y", "z"].map((k) => ({ t, d, k }))));
  const terms: Term[] = [["t"], ["d"], ["k"], ["t", "d"], ["t", "k"], ["t", "t"]];
  /** A surface in natural units, with a slope of its own for each kind. */
  const shift = (k: string, t: number): number => (k === "x" ? 1 : k === "y" ? -2 + 0.05 * t : 4);
  const value = ({ t, d, k }: { t: number; d: number; k: string }): number =>
    3 + 0.2 * t - 0.5 * Math.log(d) + 0.01 * t * Math.log(d) + 0.004 * t * t + shift(k, t);
  const study = parseStudy({
    format: "trialmoor-study",
    version: 1,
    title: "t",
    factors,
    responses: [{ id: "y" }],
    waves: [{ id: "w" }],
    trials: points.map((settings, i) => ({
      id: `t${i}`,
      wave: "w",
      state: "done",
      settings,
      results: { y: value(settings) },
    })),
  });
  const equation = equationOf(study, fitModel(study, "y", { terms }));
  it.each(["x", "y", "z"])("of kind %s has the coefficients that the results were made from", (kind) => {
    const own = equation.natural.find((e) => e.when?.k === kind);
    const of = (...term: string[]): number =>
      own?.coefficients.find((c) => [...c.term].sort().join() === term.sort().join())?.coefficient ?? 0;
    expect(of()).toBeCloseTo(3 + shift(kind, 0), 6);
    expect(of("t")).toBeCloseTo(0.2 + (kind === "y" ? 0.05 : 0), 7);
    expect(of("d")).toBeCloseTo(-0.5, 7);
    expect(of("t", "d")).toBeCloseTo(0.01, 9);
    expect(of("t", "t")).toBeCloseTo(0.004, 9);
  });
  it("gives the predicted values back, at points that were never run", () => {
    const predictor = presentPredictor(
      { ...study, models: [{ response: "y", terms, transform: "none", block: true, curvature: true }] },
      "y",
    );
    for (const at of [
      { t: 43, d: 7, k: "x" },
      { t: 57.5, d: 31, k: "y" },
      { t: 51, d: 90, k: "z" },
    ]) {
      const own = equation.natural.find((e) => e.when?.k === at.k);
      const read = (id: string): number => (id === "d" ? Math.log(at.d) : at.t);
      const written = (own?.coefficients ?? []).reduce(
        (t, c) => t + c.coefficient * c.term.reduce((p, id) => p * read(id), 1),
        0,
      );
      expect(written).toBeCloseTo(value(at), 7);
      expect(predictor.value(at)).toBeCloseTo(value(at), 8);
    }
  });
  it("names a logarithm as one", () => expect(equation.natural[0].text).toContain("ln(Dose)"));
});
