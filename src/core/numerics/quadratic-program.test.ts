import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { quadraticProgram } from "./quadratic-program";

describe("quadratic programs", () => {
  it("three variables under three limits: the exact answer by the conditions of Karush, Kuhn and Tucker", () => {
    // ½|x|² − 5x₂ with −4x₁ − 3x₂ ≥ −8, 2x₁ + x₂ ≥ 2, −2x₂ + x₃ ≥ 0. The last two are reached:
    // x = (2λ₂, 5 + λ₂ − 2λ₃, λ₃), so that λ₂ = 5/21, λ₃ = 44/21 and the first limit has room, 106/21 below 8.
    const solved = quadraticProgram(
      [
        [1, 0, 0],
        [0, 1, 0],
        [0, 0, 1],
      ],
      [0, 5, 0],
      [
        { of: [-4, -3, 0], bound: -8 },
        { of: [2, 1, 0], bound: 2 },
        { of: [0, -2, 1], bound: 0 },
      ],
    );
    [10 / 21, 22 / 21, 44 / 21].forEach((v, i) => expect(solved?.x[i]).toBeCloseTo(v, 12));
    [0, 5 / 21, 44 / 21].forEach((v, i) => expect(solved?.multipliers[i]).toBeCloseTo(v, 12));
  });
  it("limits that contradict each other have no answer", () =>
    expect(
      quadraticProgram(
        [[1]],
        [0],
        [
          { of: [1], bound: 1 },
          { of: [-1], bound: 1 },
        ],
      ),
    ).toBeNull());
  it("a matrix that is not positive definite is refused", () =>
    expect(quadraticProgram([[-1]], [0], [{ of: [1], bound: 0 }])).toBeNull());
  it("any program: slopes balance, limits hold, and only limits that are reached carry", () =>
    fc.assert(
      fc.property(fc.array(fc.integer({ min: -9, max: 9 }), { minLength: 30, maxLength: 30 }), (numbers) => {
        const n = 3;
        const root = [0, 1, 2].map((i) => numbers.slice(3 * i, 3 * i + 3));
        const d = [0, 1, 2].map((i) =>
          [0, 1, 2].map((j) => (i === j ? 1 : 0) + root.reduce((t, r) => t + r[i] * r[j], 0)),
        );
        const linear = numbers.slice(9, 12);
        // The origin keeps every limit, so that there is an answer.
        const limits = [0, 1, 2, 3].map((c) => ({
          of: numbers.slice(12 + 3 * c, 15 + 3 * c),
          bound: -Math.abs(numbers[24 + c]),
        }));
        const solved = quadraticProgram(d, linear, limits);
        if (!solved) throw new Error("no answer");
        const { x, multipliers } = solved;
        for (let i = 0; i < n; i++) {
          const slope = d[i].reduce((t, v, j) => t + v * x[j], 0) - linear[i];
          expect(slope).toBeCloseTo(
            limits.reduce((t, l, c) => t + multipliers[c] * l.of[i], 0),
            6,
          );
        }
        limits.forEach((l, c) => {
          const slack = l.of.reduce((t, v, i) => t + v * x[i], 0) - l.bound;
          expect(slack).toBeGreaterThan(-1e-7);
          expect(multipliers[c]).toBeGreaterThan(-1e-12);
          expect(Math.abs(slack * multipliers[c])).toBeLessThan(1e-5);
        });
      }),
    ));
});
