import type { Law } from "../../model/laws/law";
import { modelByNormalEquations } from "./normal-equations";

/**
 * A law for tests on orthogonal columns at ±1, fitted on the logarithm: columns constant within groups of `size` trials
 * in a row are judged by the mean square between groups, the others by the one within, as in a balanced experiment in
 * two strata. Contrasts that mix the two get Satterthwaite's degrees of freedom; several columns an F scaled by `lambda`.
 */
export const twoStrata = (size: number, lambda: number): Law => ({
  id: "two-strata",
  solve: () => undefined,
  model(input) {
    const link = { name: "log", identity: false, decreasing: false, forward: Math.log, back: Math.exp };
    const observed = input.design.data.y.map(Math.log);
    const own = { ...input, observed, link, unit: undefined };
    return modelByNormalEquations(
      "two-strata",
      own,
      observed.map(() => 1),
      (x, residuals) => {
        const n = x.length;
        const groups = n / size;
        const between = x[0].map((_, j) => x.every((r, i) => r[j] === x[i - (i % size)][j]));
        const mean = (i: number): number =>
          residuals.slice(i - (i % size), i - (i % size) + size).reduce((t, v) => t + v, 0) / size;
        const dfBetween = groups - between.filter(Boolean).length;
        const dfWithin = n - groups - between.filter((b) => !b).length;
        const msBetween = residuals.reduce((t, _, i) => t + mean(i) ** 2, 0) / dfBetween;
        const msWithin = residuals.reduce((t, e, i) => t + (e - mean(i)) ** 2, 0) / dfWithin;
        const variance = between.map((b) => (b ? msBetween : msWithin) / n);
        return {
          covariance: (rows) =>
            rows[0].map((_, i) => rows[0].map((__, j) => (i === j ? (variance[i] ?? msWithin / n) : 0))),
          dfOf(contrast) {
            const part = (b: boolean): number =>
              variance.reduce((t, v, j) => (between[j] === b ? t + v * (contrast[j] ?? 0) ** 2 : t), 0);
            const [a, c] = [part(true), part(false)];
            return (a + c) ** 2 / (a ** 2 / dfBetween + c ** 2 / dfWithin);
          },
          noise: msBetween / size + (msWithin * (size - 1)) / size,
          dfTrial: dfBetween,
          scaleOf: (df) => (df > 1 ? lambda : 1),
        };
      },
    );
  },
});
