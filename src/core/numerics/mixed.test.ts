import { describe, expect, it } from "vitest";
import { determinant, dot, gram, regress, solve } from "../testing/elimination";
import { informationUnder } from "../testing/setups";
import { components, profiler } from "./components";
import { fUpper } from "./distributions";
import {
  addedInformation,
  adjustedCovariance,
  cleared,
  generalised,
  groupingOf,
  informationOf,
  satterthwaite,
  scaledF,
  whitenedBy,
} from "./mixed";
import { seededRandom } from "./random";

const matrixOf = (rows: readonly (readonly number[])[]) => ({
  rows: rows.length,
  cols: rows[0].length,
  data: Float64Array.from(rows.flat()),
});

/** Set-ups of trials with a hard factor a; b and c easy. */
function study(sizes: readonly number[], seed: number, between: number) {
  const random = seededRandom(seed);
  const names: string[] = [];
  const rows: number[][] = [];
  const y: number[] = [];
  sizes.forEach((size, g) => {
    const a = g % 2 === 0 ? -1 : 1;
    const u = between * random.normal();
    for (let i = 0; i < size; i++) {
      const b = i % 2 === 0 ? -1 : 1;
      const c = Math.floor(i / 2) % 2 === 0 ? -1 : 1;
      names.push(`s${g}`);
      rows.push([1, a, b, c, a * b]);
      y.push(10 + a - 0.5 * b + u + 0.7 * random.normal());
    }
  });
  return { names, rows, y };
}

const fitted = (names: readonly string[], rows: readonly (readonly number[])[], y: readonly number[]) => {
  const groups = groupingOf(names);
  const matrix = matrixOf(rows);
  const parts = components(groups, matrix, y);
  const fit = generalised(groups, parts.between / parts.within, matrix, y);
  return { groups, matrix, parts, fit, info: informationOf(groups, fit, matrix, parts) };
};

/** V by trials, dense. */
const dense = (names: readonly string[], between: number, within: number): number[][] =>
  names.map((a, i) => names.map((b, j) => (a === b ? between : 0) + (i === j ? within : 0)));

/** −2 log restricted likelihood, dense, by elimination. */
function restricted(names: readonly string[], rows: number[][], y: number[], between: number, within: number): number {
  const v = dense(names, between, within);
  const vx = rows[0].map((_, j) =>
    solve(
      v,
      rows.map((r) => r[j]),
    ),
  );
  const information = rows[0].map((_, i) =>
    vx.map((column) =>
      dot(
        rows.map((r) => r[i]),
        column,
      ),
    ),
  );
  const vy = solve(v, y);
  const b = solve(
    information,
    rows[0].map((_, j) =>
      dot(
        rows.map((r) => r[j]),
        vy,
      ),
    ),
  );
  const e = y.map((value, i) => value - dot(rows[i], b));
  return Math.log(determinant(v)) + Math.log(determinant(information)) + dot(e, solve(v, e));
}

describe("the likelihoods over ratios, by set-ups and by columns", () => {
  it.each([
    ["fewer set-ups than make it worth while by columns", [3, 5, 4, 4, 2, 6]],
    ["many small set-ups", Array.from({ length: 14 }, (_, i) => 1 + (i % 3))],
  ])("%s", (_, sizes) => {
    const { names, rows, y } = study(sizes, 5, 0.8);
    const [n, p] = [rows.length, rows[0].length];
    const profile = profiler(groupingOf(names), matrixOf(rows), y);
    // Dense, by elimination: the residual squares are the last pivot of (X y)′V⁻¹(X y).
    const whole = (eta: number, isRestricted: boolean): number => {
      const ofV = Math.log(determinant(dense(names, eta, 1)));
      const ofX = Math.log(determinant(informationUnder(rows, names, eta)));
      const wide = rows.map((r, i) => [...r, y[i]]);
      const rss = Math.log(determinant(informationUnder(wide, names, eta))) - ofX;
      return isRestricted ? ofV + ofX + (n - p) * rss : ofV + n * rss;
    };
    for (const kind of [true, false])
      for (const eta of [-0.1, 0, 0.7, 30])
        expect(profile.at(eta, kind) - profile.at(0.2, kind)).toBeCloseTo(whole(eta, kind) - whole(0.2, kind), 8);
    for (const eta of [-0.1, 0, 0.7, 30])
      expect(profile.slope(eta) / ((whole(eta + 1e-5, true) - whole(eta - 1e-5, true)) / 2e-5)).toBeCloseTo(1, 5);
  });
});

describe("balanced set-ups: the two strata exactly", () => {
  it.each([
    ["set-ups that vary", 3, 1.1],
    ["set-ups that vary less than chance", 8, 0],
    ["a component estimated below nothing", 21, 0],
  ])("%s", (_, seed, between) => {
    const { names, rows, y } = study([4, 4, 4, 4, 4, 4], seed, between);
    const { parts, fit, info } = fitted(names, rows, y);
    // By hand: mean squares of set-up means about a, and of what is left within.
    const { b, rss } = regress(rows, y);
    const e = y.map((v, i) => v - dot(rows[i], b));
    const means = [0, 1, 2, 3, 4, 5].map((g) => e.slice(4 * g, 4 * g + 4).reduce((t, v) => t + v, 0) / 4);
    const ssBetween = 4 * means.reduce((t, m) => t + m * m, 0);
    const msBetween = ssBetween / 4;
    const msWithin = (rss - ssBetween) / 15;
    expect(Math.abs(parts.within / msWithin - 1)).toBeLessThan(1e-9);
    expect(Math.abs(parts.between - (msBetween - msWithin) / 4)).toBeLessThan(1e-9);
    const unit = (j: number) => b.map((__, k) => (k === j ? 1 : 0));
    const hard = scaledF(info, [fit.solution.coefficients[1]], [1]);
    expect(hard.df).toBeCloseTo(4, 8);
    expect(hard.f).toBeCloseTo((24 * b[1] ** 2) / msBetween, 7);
    expect(hard.p).toBeCloseTo(fUpper((24 * b[1] ** 2) / msBetween, 1, 4), 9);
    const easy = scaledF(info, [fit.solution.coefficients[2]], [2]);
    expect(easy.df).toBeCloseTo(15, 8);
    expect(easy.f).toBeCloseTo((24 * b[2] ** 2) / msWithin, 7);
    expect(satterthwaite(info, unit(4))).toBeCloseTo(15, 8);
    // Two easy columns together: the exact F on (2, 15), nothing scaled.
    const both = scaledF(info, [b[2], b[3]], [2, 3]);
    expect(both.scale).toBeCloseTo(1, 8);
    expect(both.df).toBeCloseTo(15, 6);
    expect(both.f).toBeCloseTo((24 * (b[2] ** 2 + b[3] ** 2)) / 2 / msWithin, 7);
  });
});

describe("unbalanced set-ups", () => {
  const { names, rows, y } = study([4, 3, 2, 5, 4, 1, 3], 5, 0.9);
  const { parts, fit, info } = fitted(names, rows, y);
  const [s2u, s2] = [parts.between, parts.within];

  it("has the components of a dense restricted maximisation", () => {
    const at = (u: number, e: number): number => restricted(names, rows, y, u, e);
    // Pattern search from afar, its step halved whenever nothing near is better.
    let best = { u: 1, e: 1, value: at(1, 1) };
    for (let step = 0.5; step > 1e-9; ) {
      const next = [
        [step, 0],
        [-step, 0],
        [0, step],
        [0, -step],
        [step, -step],
        [-step, step],
      ]
        .map(([du, de]) => ({ u: best.u + du, e: best.e + de }))
        .filter((q) => q.e > 0 && q.u > -q.e / 5)
        .map((q) => ({ ...q, value: at(q.u, q.e) }))
        .reduce((a, b) => (b.value < a.value ? b : a));
      if (next.value < best.value) best = next;
      else step /= 2;
    }
    expect(Math.abs(s2u - best.u)).toBeLessThan(1e-6);
    expect(Math.abs(s2 - best.e)).toBeLessThan(1e-6);
  });
  it("has Kenward & Roger's covariance, degrees of freedom and scale by their formulas written out", () => {
    const n = y.length;
    const p = rows[0].length;
    const v = dense(names, s2u, s2);
    const inverse = (m: number[][]): number[][] => {
      const columns = m.map((_, j) =>
        solve(
          m,
          m.map((__, i) => (i === j ? 1 : 0)),
        ),
      );
      return m.map((_, i) => columns.map((c) => c[i]));
    };
    const times = (a: number[][], b: number[][]): number[][] =>
      a.map((r) => b[0].map((_, j) => r.reduce((t, x, k) => t + x * b[k][j], 0)));
    const flip = (a: number[][]): number[][] => a[0].map((_, j) => a.map((r) => r[j]));
    const tr = (a: number[][]): number => a.reduce((t, r, i) => t + r[i], 0);
    const vi = inverse(v);
    const parted = [dense(names, 1, 0), dense(names, 0, 1)];
    const xt = flip(rows);
    const phi = inverse(times(times(xt, vi), rows));
    const hat = times(times(times(vi, rows), phi), times(xt, vi));
    const proj = vi.map((r, i) => r.map((x, j) => x - hat[i][j]));
    const info2 = parted.map((a) => parted.map((b) => 0.5 * tr(times(times(proj, a), times(proj, b)))));
    const w = inverse(info2);
    const pi = parted.map((d) => times(times(times(xt, vi), d), times(vi, rows)).map((r) => r.map((x) => -x)));
    const lambda = Array.from({ length: p }, () => new Array<number>(p).fill(0));
    for (const i of [0, 1])
      for (const j of [0, 1]) {
        const q = times(times(times(times(xt, vi), parted[i]), times(vi, parted[j])), times(vi, rows));
        const middle = times(times(pi[i], phi), pi[j]);
        const part = times(
          times(
            phi,
            q.map((r, a) => r.map((x, b) => x - middle[a][b])),
          ),
          phi,
        );
        part.forEach((r, a) => {
          r.forEach((x, b) => {
            lambda[a][b] += w[i][j] * x;
          });
        });
      }
    const adjusted = adjustedCovariance(info);
    for (let a = 0; a < p; a++)
      for (let b = 0; b < p; b++)
        expect(Math.abs(adjusted.data[a * p + b] - (phi[a][b] + 2 * lambda[a][b]))).toBeLessThan(1e-8);
    // One column: Satterthwaite's degrees of freedom.
    const slope = (d: number[][], j: number): number => -times(times(phi, d), phi)[j][j];
    for (const j of [1, 2]) {
      const g = pi.map((d) => slope(d, j));
      const nu = (2 * phi[j][j] ** 2) / g.reduce((t, x, a) => t + g.reduce((s, z, b) => s + x * z * w[a][b], 0), 0);
      expect(scaledF(info, [fit.solution.coefficients[j]], [j]).df / nu).toBeCloseTo(1, 7);
    }
    // Three columns of both strata together.
    const places = [1, 2, 4];
    const l = rows[0].map((_, a) => places.map((b) => (a === b ? 1 : 0)));
    const theta = times(times(l, inverse(times(times(flip(l), phi), l))), flip(l));
    const m = pi.map((d) => times(theta, times(times(phi, d), phi)));
    let a1 = 0;
    let a2 = 0;
    for (const i of [0, 1])
      for (const j of [0, 1]) {
        a1 += w[i][j] * tr(m[i]) * tr(m[j]);
        a2 += w[i][j] * tr(times(m[i], m[j]));
      }
    const q = 3;
    const big = (a1 + 6 * a2) / (2 * q);
    const g = ((q + 1) * a1 - (q + 4) * a2) / ((q + 2) * a2);
    const under = 3 * q + 2 * (1 - g);
    const e = 1 / (1 - a2 / q);
    const variance =
      ((2 / q) * (1 + (g / under) * big)) / ((1 - ((q - g) / under) * big) ** 2 * (1 - ((q + 2 - g) / under) * big));
    const rho = variance / (2 * e * e);
    const df = 4 + (q + 2) / (q * rho - 1);
    const said = scaledF(
      info,
      places.map((j) => fit.solution.coefficients[j]),
      places,
    );
    expect(said.df / df).toBeCloseTo(1, 6);
    expect(said.scale / (df / (e * (df - 2)))).toBeCloseTo(1, 6);
    expect(n).toBe(22);
  });
  it("is a stationary point of the restricted likelihood", () => {
    expect(Math.abs(info.score[0]) + Math.abs(info.score[1])).toBeLessThan(1e-8);
    expect(gram(rows).length).toBe(5);
  });
});

describe("columns added last", () => {
  // The whole larger model, by what is held against dense formulas above.
  it.each([
    [[4, 4, 4, 4, 4, 4], [["b", "c"]]],
    [[4, 2, 3, 4, 3, 2], [["b", "c"]]],
    [
      [4, 2, 3, 4, 3, 2],
      [
        ["a", "c"],
        ["b", "c"],
      ],
    ],
  ])("say of set-ups of %j what the larger model says of them at the same ratio", (sizes, more) => {
    const { names, rows, y } = study(sizes, 5, 1.1);
    const { groups, parts, fit, info } = fitted(names, rows, y);
    const at = (row: readonly number[], name: string): number => row[1 + "abc".indexOf(name)];
    const columns = rows.map((row) => more.map((pair) => pair.reduce((t, name) => t * at(row, name), 1)));
    const wide = matrixOf(rows.map((row, i) => [...row, ...columns[i]]));
    const large = generalised(groups, fit.eta, wide, y);
    const within = large.solution.rss / (y.length - wide.cols);
    const whole = informationOf(groups, large, wide, { between: fit.eta * within, within });
    const u = cleared(fit, whitenedBy(groups, fit.eta, matrixOf(columns)));
    const block = addedInformation(groups, fit, { info, within: parts.within }, u, within);
    const places = more.map((_, j) => rows[0].length + j);
    const own = places.map((j) => large.solution.coefficients[j]);
    const [said, meant] = [
      scaledF(
        block,
        own,
        more.map((_, j) => j),
      ),
      scaledF(whole, own, places),
    ];
    for (const key of ["f", "df", "scale", "p"] as const) expect(said[key] / meant[key]).toBeCloseTo(1, 9);
    const unit = Array.from({ length: wide.cols }, (_, j) => (j === places[0] ? 1 : 0));
    expect(satterthwaite(block, [1, ...more.slice(1).map(() => 0)])).toBeCloseTo(satterthwaite(whole, unit), 7);
    const corner = places[0] * wide.cols + places[0];
    expect(adjustedCovariance(block).data[0] / adjustedCovariance(whole).data[corner]).toBeCloseTo(1, 9);
  });
});
