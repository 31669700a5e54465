import { isNumeric, rangeOf } from "../study/coding";
import { regionOf } from "../study/region";
import { activeFactors, heldSettings } from "../study/roles";
import type { Limit, NumericFactor, Settings, Study } from "../study/schema";

/** Vertices that are looked at one by one; of more a search is made. */
const MOST = 100_000;

/** Solves A x = b by elimination with row pivoting; undefined where A is singular. */
function solved(a: number[][], b: number[]): number[] | undefined {
  const n = b.length;
  const m = a.map((row, i) => [...row, b[i]]);
  const size = Math.max(...m.flat().map(Math.abs));
  for (let c = 0; c < n; c++) {
    let top = c;
    for (let r = c + 1; r < n; r++) if (Math.abs(m[r][c]) > Math.abs(m[top][c])) top = r;
    if (Math.abs(m[top][c]) < 1e-12 * size) return undefined;
    [m[c], m[top]] = [m[top], m[c]];
    for (let r = 0; r < n; r++) {
      if (r === c) continue;
      const f = m[r][c] / m[c][c];
      for (let k = c; k <= n; k++) m[r][k] -= f * m[c][k];
    }
  }
  return m.map((row, i) => row[n] / row[i]);
}

/** All ways to choose `size` of the numbers below `count`. */
function* choices(count: number, size: number, from = 0): Generator<number[]> {
  if (size === 0) yield [];
  else for (let i = from; i < count; i++) for (const rest of choices(count, size - 1, i + 1)) yield [i, ...rest];
}

/** Where a continuous factor can stand at a vertex that no limit decides: its ends, and beside forbidden ranges. */
function stands(study: Pick<Study, "region">, factor: NumericFactor): number[] {
  const [low, high] = rangeOf(factor);
  // Twice the tolerance: a forbidden combination holds its ends.
  const clear = 2e-9 * (high - low);
  const beside = study.region.forbidden.flatMap((f) => {
    const part = f[factor.id];
    if (part === undefined || Array.isArray(part)) return [];
    return [
      ...(part.from === undefined ? [] : [part.from - clear]),
      ...(part.to === undefined ? [] : [part.to + clear]),
    ];
  });
  return [...new Set([low, high, ...beside.filter((v) => v > low && v < high)])];
}

/**
 * The vertices of the region: every place where as many limits and ends of ranges meet as there are continuous
 * factors, with each combination of listed values and levels.
 *
 * @returns undefined where there may be more than 100,000
 */
export function vertices(study: Study): Settings[] | undefined {
  const factors = activeFactors(study);
  const continuous = factors.filter((f): f is NumericFactor => isNumeric(f) && f.kind === "continuous");
  const listed = factors.flatMap((f) =>
    f.kind === "continuous" ? [] : [{ id: f.id, values: (isNumeric(f) ? f.values : f.levels) as (number | string)[] }],
  );
  const limits = study.region.limits.filter((l) => continuous.some((f) => (l.terms[f.id] ?? 0) !== 0));
  const places = continuous.map((f) => stands(study, f));
  const combinations = listed.reduce((n, l) => n * l.values.length, 1);
  // Ways to leave `s` factors to limits, times the places of the others; then times the choices of s limits.
  let ways = [1];
  for (const p of places) {
    const next = new Array<number>(ways.length + 1).fill(0);
    ways.forEach((w, s) => {
      next[s] += w * p.length;
      next[s + 1] += w;
    });
    ways = next;
  }
  const pick = (s: number): number => {
    let c = 1;
    for (let i = 0; i < s; i++) c = (c * (limits.length - i)) / (i + 1);
    return c;
  };
  const most = Math.min(limits.length, continuous.length);
  let count = 0;
  for (let s = 0; s <= most; s++) count += ways[s] * pick(s);
  if (!(count * combinations <= MOST)) return undefined;

  const held = heldSettings(study);
  const region = regionOf(study);
  const out: Settings[] = [];
  for (let c = 0; c < combinations; c++) {
    const base: Settings = { ...held };
    let rest = c;
    for (const { id, values } of listed) {
      base[id] = values[rest % values.length];
      rest = Math.floor(rest / values.length);
    }
    for (let s = 0; s <= most; s++)
      for (const free of choices(continuous.length, s))
        for (const active of choices(limits.length, s))
          corner(
            base,
            continuous,
            places,
            free,
            active.map((i) => limits[i]),
          ).forEach((v) => {
            if (region.allowed(v)) out.push(v);
          });
  }
  return out;
}

/** Vertices with some continuous factors decided by limits, the others at all their places. */
function corner(
  base: Settings,
  continuous: readonly NumericFactor[],
  places: readonly number[][],
  free: readonly number[],
  limits: readonly Limit[],
): Settings[] {
  const fixed = continuous.flatMap((_, i) => (free.includes(i) ? [] : [i]));
  const total = fixed.reduce((n, i) => n * places[i].length, 1);
  const out: Settings[] = [];
  for (let k = 0; k < total; k++) {
    const settings = { ...base };
    let rest = k;
    for (const i of fixed) {
      settings[continuous[i].id] = places[i][rest % places[i].length];
      rest = Math.floor(rest / places[i].length);
    }
    if (free.length > 0) {
      const x = solved(
        limits.map((l) => free.map((i) => l.terms[continuous[i].id] ?? 0)),
        limits.map((l) =>
          Object.entries(l.terms).reduce(
            (t, [id, w]) => (free.some((i) => continuous[i].id === id) ? t : t - w * (settings[id] as number)),
            l.bound,
          ),
        ),
      );
      const inside = x?.every((v, q) => {
        const [low, high] = rangeOf(continuous[free[q]]);
        return v > low && v < high;
      });
      if (!x || !inside) continue;
      free.forEach((i, q) => {
        settings[continuous[i].id] = x[q];
      });
    }
    out.push(settings);
  }
  return out;
}

/**
 * Climbs from a place of the region: along each factor, and along pairs of continuous factors that keep a limit as it
 * is, in steps that are halved until none gains.
 */
export function climb(study: Study, value: (s: Settings) => number, start: Settings): number {
  const region = regionOf(study);
  const factors = activeFactors(study);
  const continuous = factors.filter((f): f is NumericFactor => isNumeric(f) && f.kind === "continuous");
  let here = start;
  let best = value(start);
  const take = (next: Settings): boolean => {
    const within = continuous.every((f) => {
      const [low, high] = rangeOf(f);
      return (next[f.id] as number) >= low && (next[f.id] as number) <= high;
    });
    if (!within || !region.allowed(next)) return false;
    const v = value(next);
    if (!(v > best * (1 + 1e-12))) return false;
    here = next;
    best = v;
    return true;
  };
  const half = (f: NumericFactor): number => (rangeOf(f)[1] - rangeOf(f)[0]) / 2;
  for (let step = 0.5; step > 1e-4; ) {
    let moved = false;
    for (const f of factors) {
      if (f.kind === "continuous") {
        for (const side of [-1, 1]) {
          const [low, high] = rangeOf(f);
          const v = Math.min(high, Math.max(low, (here[f.id] as number) + side * step * half(f)));
          moved = take({ ...here, [f.id]: v }) || moved;
        }
      } else for (const v of isNumeric(f) ? f.values : f.levels) moved = take({ ...here, [f.id]: v }) || moved;
    }
    for (const limit of study.region.limits)
      for (const a of continuous)
        for (const b of continuous) {
          const [wa, wb] = [limit.terms[a.id] ?? 0, limit.terms[b.id] ?? 0];
          if (a === b || wa === 0 || wb === 0) continue;
          const by = step * half(a);
          const next = { [a.id]: (here[a.id] as number) + by, [b.id]: (here[b.id] as number) - (by * wa) / wb };
          moved = take({ ...here, ...next }) || moved;
        }
    if (!moved) step /= 2;
  }
  return best;
}
