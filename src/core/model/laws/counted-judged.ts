import { chiSquaredQuantile, chiSquaredUpper, fQuantile, fUpper } from "../../numerics/distributions";
import { clearOf, type Matrix, pickColumns } from "../../numerics/least-squares";
import { ofFactors, WAVE_TERM } from "../../terms/term";
import { type AddedTerm, type AnovaRow, type Criteria, LEAST_FREE, type TermTest } from "../fitted";
import { type Solved, scatterOf, startOf, upTo, without } from "./counted-solved";
import { type Maximum, Surface } from "./likelihood";

/** F of a rise of the criterion, and its p. */
function judge({ phi, df }: Solved, rise: number, q: number): { f: number | null; p: number | null } {
  // A scatter that is told from one, two or three errors is no scatter to divide by.
  if (phi === null || !(phi > 0) || q < 1 || (df !== null && df < LEAST_FREE)) return { f: null, p: null };
  const f = Math.max(0, rise) / q / phi;
  return { f, p: df === null ? chiSquaredUpper(f * q, q) : fUpper(f, q, df) };
}

/** QAICc and QBIC of a deviance on p columns, one more for an estimated dispersion (Burnham & Anderson 2002). */
export function criteriaOf(s: Solved, deviance: number, p: number): Criteria {
  const { n, input, df, phi } = s;
  const dispersion = df === null ? 1 : (input.judged?.dispersion ?? phi);
  if (dispersion === null || !(dispersion > 0)) return { aicc: null, bic: null };
  const k = df === null ? p : p + 1;
  const base = deviance / dispersion;
  return {
    aicc: n <= k + 1 ? null : base + 2 * k + (2 * k * (k + 1)) / (n - k - 1),
    bic: base + k * Math.log(n),
  };
}

/** Deviance that the criteria of some columns go by: with the weights of the largest model. */
export function criterionDeviance(s: Solved, keep: readonly number[], here: Maximum): number {
  const { input, fit, data, counted } = s;
  const extra = input.judged?.extra ?? fit.extra;
  if (extra === fit.extra) return here.deviance;
  const surface = new Surface({
    x: pickColumns(input.design.matrix, keep),
    counting: counted.counting(data, extra),
    penalised: s.firth !== undefined,
  });
  return surface.maximum(
    upTo(keep.length),
    Float64Array.from(keep, (j) => here.coefficients[j]),
  ).deviance;
}

export function testOf(s: Solved, columns: readonly number[]): TermTest {
  const key = columns.join();
  const done = s.tests.get(key) ?? testAnew(s, columns);
  s.tests.set(key, done);
  return done;
}

function testAnew(s: Solved, columns: readonly number[]): TermTest {
  const { keep, best } = without(s, columns);
  const ss = Math.max(0, best.criterion - s.fit.best.criterion);
  let criteria: Criteria | undefined;
  return {
    df: columns.length,
    dfDenominator: s.df,
    ss,
    ...judge(s, ss, columns.length),
    get criteria() {
      criteria ??= criteriaOf(s, criterionDeviance(s, keep, best), keep.length);
      return criteria;
    },
  };
}

/** Some columns as if added last: a fit with them, the scatter beyond counting held at the model's. */
export function addTerm(s: Solved, columns: Matrix): AddedTerm | null {
  const { n, p, input, data, fit, counted } = s;
  const q = columns.cols;
  // What is no longer than rounding beside the model adds nothing.
  const lengths = new Float64Array(q);
  const basis = s.solution.basis.slice();
  for (let c = 0; c < q; c++) {
    const v = Float64Array.from({ length: n }, (_, i) => s.roots[i] * columns.data[i * q + c]);
    const before = v.reduce((t, x) => t + x * x, 0);
    for (let pass = 0; pass < 2; pass++) clearOf(basis, v);
    lengths[c] = v.reduce((t, x) => t + x * x, 0);
    if (!Number.isFinite(before) || !(lengths[c] > 1e-14 * before)) return null;
    const norm = Math.sqrt(lengths[c]);
    basis.push(v.map((x) => x / norm));
  }
  if (n < p + q) return null;
  const x = {
    rows: n,
    cols: p + q,
    data: Float64Array.from({ length: n * (p + q) }, (_, k) => {
      const i = Math.floor(k / (p + q));
      const j = k % (p + q);
      return j < p ? input.design.matrix.data[i * p + j] : columns.data[i * q + j - p];
    }),
  };
  const surface = new Surface({ x, counting: counted.counting(data, fit.extra), penalised: s.firth !== undefined });
  const start = new Float64Array(p + q);
  start.set(fit.best.coefficients);
  const best = surface.maximum(upTo(p + q), start);
  const at = upTo(q).map((j) => p + j);
  const small = s.firth ? surface.maximum(upTo(p), start).criterion : fit.best.criterion;
  surface.moveTo(best.coefficients);
  const df = n - p - q;
  const phi = s.df === null ? 1 : scatterOf(counted, data, surface.predictors, fit.extra, df).dispersion;
  const own = { ...s, phi, df: s.df === null ? null : df };
  const ss = Math.max(0, small - best.criterion);
  const around = surface.inverse();
  if (!around) return null;
  const usable = phi !== null && (own.df === null || df > 0);
  return {
    df: q,
    dfDenominator: own.df,
    ss,
    ...judge(own, ss, q),
    coefficients: at.map((j) => best.coefficients[j]),
    covariance: usable
      ? {
          rows: q,
          cols: q,
          data: Float64Array.from(at.flatMap((j) => at.map((k) => phi * around[j * (p + q) + k]))),
        }
      : null,
    dfs: at.map(() => own.df),
    criteria: criteriaOf(own, best.deviance, p + q),
    ...(q === 1 && usable
      ? { profile: (confidence: number) => profileOf(surface, best, around, p, risesTo(own, confidence)) }
      : {}),
  };
}

/** Rise of the criterion at the ends of an interval. */
export const risesTo = ({ phi, df }: Pick<Solved, "phi" | "df">, confidence: number): number =>
  (phi ?? 0) * (df === null ? chiSquaredQuantile(confidence, 1) : df > 0 ? fQuantile(confidence, 1, df) : 0);

export function profileOf(
  surface: Surface,
  best: Maximum,
  inverse: Float64Array | null,
  column: number,
  rise: number,
): [number, number] | null {
  if (!(rise > 0) || !inverse) return null;
  const low = surface.profileEnd(best, inverse, column, -1, rise);
  const high = surface.profileEnd(best, inverse, column, 1, rise);
  return low === null || high === null ? null : [low, high];
}

/** Rows of the table of deviance but for what splits the residual. */
export function anovaOf(s: Solved, nullDeviance: number): AnovaRow[] {
  const { input, fit, residualDf, n } = s;
  const { columns } = input.design;
  const keys = [...new Set(columns.slice(1).map((c) => c.key))];
  const places = keys.map((key) => columns.flatMap((c, j) => (c.key === key ? [j] : [])));
  const start = new Float64Array(s.p);
  start[0] = startOf(s.counted, s.data, 1)[0];
  let first: Maximum | undefined;
  const constant = (): Maximum => {
    first ??= fit.surface.maximum([0], start);
    return first;
  };
  let rises: number[] | undefined;
  // In order: each with the ones before it, all under the penalty of the whole where there is one. A fit each.
  const inOrder = (): number[] => {
    let before = constant();
    const upToKey = [0];
    return places.map((positions, k) => {
      upToKey.push(...positions);
      const here = k === keys.length - 1 ? fit.best : fit.surface.maximum(upToKey, before.coefficients);
      const rise = Math.max(0, before.criterion - here.criterion);
      before = here;
      return rise;
    });
  };
  const rows = keys.map((key, index): AnovaRow => {
    const { ss, f, p } = testOf(s, places[index]);
    const { term } = columns[places[index][0]];
    return {
      source: ofFactors(term) ? "term" : term === WAVE_TERM ? "wave" : "curvature",
      ...(key === "@wave" ? {} : { term }),
      df: places[index].length,
      ss,
      get sequentialSs() {
        rises ??= inOrder();
        return rises[index];
      },
      ms: ss === null ? null : ss / places[index].length,
      f,
      p,
      dfDenominator: s.df,
    };
  });
  const wave = rows.find((r) => r.source === "wave");
  const curvature = rows.find((r) => r.source === "curvature");
  const modelDf = s.p - 1 - (wave?.df ?? 0) - (curvature?.df ?? 0);
  // Waves come first and the centre's column last: between them lies what the terms explain.
  const waves = places[keys.indexOf("@wave")] ?? [];
  const base = waves.length > 0 ? fit.surface.maximum([0, ...waves], constant().coefficients) : constant();
  const modelSs = Math.max(0, base.criterion - fit.best.criterion - (curvature?.ss ?? 0));
  const { f, p } = judge(s, modelSs, modelDf);
  const { deviance } = fit.best;
  return [
    ...(wave ? [wave] : []),
    {
      source: "model",
      df: modelDf,
      ss: modelSs,
      sequentialSs: modelSs,
      ms: modelDf > 0 ? modelSs / modelDf : null,
      f,
      p,
      dfDenominator: s.df,
    },
    ...rows.filter((r) => r !== wave),
    {
      source: "residual",
      df: residualDf,
      ss: deviance,
      sequentialSs: null,
      ms: residualDf > 0 ? deviance / residualDf : null,
      f: null,
      p: null,
    },
    { source: "total", df: n - 1, ss: nullDeviance, sequentialSs: null, ms: null, f: null, p: null },
  ];
}
