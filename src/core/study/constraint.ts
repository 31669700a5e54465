import { code, decode, isNumeric, rangeOf } from "./coding";
import type { Factor, Forbidden, Limit, NumericFactor, Settings, Study } from "./schema";

/**
 * One tolerance for every constraint: of a limit as a share of its bound, of a forbidden range of the factor's range.
 */
export const TOLERANCE = 1e-9;

/** A straight bound on a step in coded units: Σ ofᵢ·dxᵢ ≥ bound. */
export interface StraightBound {
  of: number[];
  bound: number;
}

/**
 * One thing that the region forbids: a linear limit or a combination that must not be run. Region, plan search,
 * setpoint search and confirmation all ask it and so mean the same.
 */
export interface Constraint {
  /** Ids of the factors it speaks of. */
  factors: readonly string[];
  /** By how much settings break it, in its own unit; 0 or below where they keep it. */
  value(settings: Settings): number;
  /** Kept within the tolerance. */
  keeps(settings: Settings): boolean;
  /** What it leaves open of coded intervals of one numeric factor, the others standing as in the settings. */
  intervals(factor: NumericFactor, settings: Settings, within: readonly Interval[]): Interval[];
  /** What it asks of a small coded step of these factors from a point that keeps it; null where it asks nothing. */
  linearised(factors: readonly NumericFactor[], settings: Settings): StraightBound | null;
  /** In words: "1 × Temperature + 4 × Dose ≤ 96". */
  text: string;
}

/** Ends of an interval of coded values. */
export type Interval = [low: number, high: number];

/** Coded step of the differences that a scale's slope is taken by. */
const H = 1e-3;

/** Change of a factor in its unit for a small coded step. */
const perCoded = (factor: NumericFactor, value: number): number => {
  const x = code(factor, value);
  return (decode(factor, x + H) - decode(factor, x - H)) / (2 * H);
};

/** A number as text without the noise of binary fractions. */
const plain = (v: number): string => String(Number.parseFloat(v.toPrecision(10)));

/** A limit as the sentence it is written as. */
export function limitText(study: Pick<Study, "factors">, limit: Limit): string {
  const left = Object.entries(limit.terms)
    .map(([id, weight], i) => {
      const name = study.factors.find((f) => f.id === id)?.name ?? id;
      const sign = weight < 0 ? "− " : i > 0 ? "+ " : "";
      return `${sign}${plain(Math.abs(weight))} × ${name}`;
    })
    .join(" ");
  return `${left} ${limit.at === "most" ? "≤" : "≥"} ${plain(limit.bound)}`;
}

/** A forbidden combination in words: "Wool lot is lowland and Bowl temperature is 64 to 68". */
export function forbiddenText(study: Pick<Study, "factors">, combination: Forbidden): string {
  return Object.entries(combination)
    .map(([id, part]) => {
      const factor = study.factors.find((f) => f.id === id);
      const name = factor?.name ?? id;
      if (Array.isArray(part)) return `${name} is ${part.join(" or ")}`;
      if (part.from === undefined) return `${name} is at most ${part.to}`;
      if (part.to === undefined) return `${name} is at least ${part.from}`;
      return `${name} is ${part.from} to ${part.to}`;
    })
    .join(" and ");
}

function linearLimit(study: Pick<Study, "factors">, limit: Limit): Constraint {
  const entries = Object.entries(limit.terms);
  const side = limit.at === "most" ? 1 : -1;
  const slack = TOLERANCE * Math.max(1, Math.abs(limit.bound));
  const value = (settings: Settings): number => {
    let total = 0;
    for (const [id, weight] of entries) total += weight * (settings[id] as number);
    return side * (total - limit.bound);
  };
  return {
    factors: entries.map(([id]) => id),
    value,
    keeps: (settings) => value(settings) <= slack,
    intervals(factor, settings, within) {
      const weight = limit.terms[factor.id];
      if (weight === undefined || weight === 0) return value(settings) <= slack ? [...within] : [];
      let rest = 0;
      for (const [id, w] of entries) if (id !== factor.id) rest += w * (settings[id] as number);
      const bound = (limit.bound - rest) / weight;
      const above = (limit.at === "most") === weight > 0;
      // On a log scale nothing lies below 0.
      if (factor.scale === "log" && bound <= 0) return above ? [] : [...within];
      const x = code(factor, bound);
      return within.flatMap(([low, high]): Interval[] => {
        const part: Interval = above ? [low, Math.min(high, x)] : [Math.max(low, x), high];
        return part[0] <= part[1] ? [part] : [];
      });
    },
    linearised(factors, settings) {
      const coefficients = factors.map((f) => {
        const weight = limit.terms[f.id] ?? 0;
        return weight === 0 ? 0 : -side * weight * perCoded(f, settings[f.id] as number);
      });
      return coefficients.some((v) => v !== 0) ? { of: coefficients, bound: Math.min(0, value(settings)) } : null;
    },
    text: limitText(study, limit),
  };
}

/** One part of a forbidden combination. */
interface Part {
  id: string;
  factor: Factor | undefined;
  /** Levels or listed values; undefined for a range. */
  listed: readonly (string | number)[] | undefined;
  from: number;
  to: number;
  slack: number;
}

function partsOf(study: Pick<Study, "factors">, combination: Forbidden): Part[] {
  return Object.entries(combination).map(([id, part]) => {
    const factor = study.factors.find((f) => f.id === id);
    const [low, high] = factor && isNumeric(factor) ? rangeOf(factor) : [0, 1];
    const range = Array.isArray(part) ? {} : part;
    return {
      id,
      factor,
      listed: Array.isArray(part) ? part : undefined,
      from: range.from ?? Number.NEGATIVE_INFINITY,
      to: range.to ?? Number.POSITIVE_INFINITY,
      slack: TOLERANCE * (high - low),
    };
  });
}

/** How far inside a part a setting stands, in its unit: above 0 inside it. */
function inside(part: Part, value: Settings[string] | undefined): number {
  if (value === undefined) return Number.NEGATIVE_INFINITY;
  if (part.listed) return part.listed.some((p) => p === value) ? Number.POSITIVE_INFINITY : Number.NEGATIVE_INFINITY;
  const v = value as number;
  return Math.min(v - part.from, part.to - v) + part.slack;
}

function forbidden(study: Pick<Study, "factors">, combination: Forbidden): Constraint {
  const parts = partsOf(study, combination);
  const value = (settings: Settings): number => {
    let least = Number.POSITIVE_INFINITY;
    for (const p of parts) least = Math.min(least, inside(p, settings[p.id]));
    return least;
  };
  // A forbidden combination holds its ends: what stands clear of one lies twice the tolerance outside.
  const clear = (p: Part): number => 2 * p.slack;
  return {
    factors: parts.map((p) => p.id),
    value,
    keeps: (settings) => value(settings) < 0,
    intervals(factor, settings, within) {
      const part = parts.find((p) => p.id === factor.id);
      if (parts.some((p) => p !== part && inside(p, settings[p.id]) < 0)) return [...within];
      if (!part) return [];
      const coded = (v: number): number => (Number.isFinite(v) ? code(factor, v) : Math.sign(v) * 9);
      const cuts = part.listed
        ? part.listed.map((v): Interval => [coded((v as number) - clear(part)), coded((v as number) + clear(part))])
        : [[coded(part.from - clear(part)), coded(part.to + clear(part))] as Interval];
      return cuts.reduce<Interval[]>(
        (open, [from, to]) =>
          open.flatMap(([low, high]): Interval[] => {
            if (to <= low || from >= high) return [[low, high]];
            const left: Interval[] = from > low ? [[low, from]] : [];
            return to < high ? [...left, [to, high]] : left;
          }),
        [...within],
      );
    },
    linearised(factors, settings) {
      // Of its ranges the side that the point stands clearest on is kept; the others are left free.
      let widest: { i: number; side: 1 | -1; room: number } | undefined;
      for (const p of parts) {
        const i = factors.findIndex((f) => f.id === p.id);
        const v = settings[p.id];
        if (i < 0 || p.listed) {
          if (inside(p, v) < 0) return null;
          continue;
        }
        const unit = perCoded(factors[i], v as number);
        for (const [side, room] of [
          [-1, p.from - clear(p) - (v as number)],
          [1, (v as number) - p.to - clear(p)],
        ] as const)
          if (Number.isFinite(room) && (!widest || room / unit > widest.room)) widest = { i, side, room: room / unit };
      }
      if (!widest) return null;
      const { i, side, room } = widest;
      return { of: factors.map((_, j) => (i === j ? side : 0)), bound: Math.min(0, -room) };
    },
    text: forbiddenText(study, combination),
  };
}

/** Everything that a study's region forbids. */
export const constraintsOf = (study: Pick<Study, "region" | "factors">): Constraint[] => [
  ...study.region.limits.map((limit) => linearLimit(study, limit)),
  ...study.region.forbidden.map((combination) => forbidden(study, combination)),
];
