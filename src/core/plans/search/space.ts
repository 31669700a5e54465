import type { Random } from "../../numerics/random";
import { code, decode, isNumeric } from "../../study/coding";
import { StudyError } from "../../study/error";
import { type Region, regionOf } from "../../study/region";
import { heldSettings } from "../../study/roles";
import type { Factor, NumericFactor, Settings, Study } from "../../study/schema";

/** A run as the searches see it: coded values of numeric factors, level numbers of categories, then its block. */
export type Row = Float64Array;

/** Stepped factors with more positions than this are searched as if continuous, then moved to the nearest two steps. */
const MOST_POSITIONS = 401;
const ENOUGH_POINTS = 400;

/** Where one factor may stand, others as in a row. */
export interface Space {
  factors: Factor[];
  /** Coded positions of discrete and stepped factors; undefined for continuous ones. */
  positions: (Float64Array | undefined)[];
  /** Number of levels of categories, 0 for numeric factors. */
  levels: number[];
  box: boolean;
  settings(row: Row): Settings;
  allowed(row: Row): boolean;
  /** Intervals of coded values, ascending, in which numeric factor `j` keeps the region. */
  open(row: Row, j: number): [number, number][];
  /** A run drawn evenly from the region (rejection, then the closest allowed point found beforehand). */
  draw(random: Random, width: number): Row;
}

const tidy = (value: number): number => Number.parseFloat(value.toPrecision(12));

function positionsOf(factor: NumericFactor, snapped: boolean): Float64Array | undefined {
  if (factor.kind === "discrete") return Float64Array.from(factor.values, (v) => code(factor, v));
  if (!snapped || factor.step === undefined) return undefined;
  const { low, high, step } = factor;
  const count = Math.floor((high - low) / step + 1e-9) + 1;
  if (count > MOST_POSITIONS) return undefined;
  return Float64Array.from({ length: count }, (_, i) => code(factor, tidy(low + i * step)));
}

/**
 * A point moved onto the half-spaces it breaks, one after another (Kaczmarz 1937), for regions too thin to hit by
 * chance.
 */
function pushed(region: Region, factors: readonly Factor[], settings: Settings): Settings {
  const s = { ...settings };
  const numeric = factors.filter(isNumeric);
  for (let round = 0; round < 60; round++) {
    let moved = false;
    for (const constraint of region.constraints) {
      if (constraint.keeps(s)) continue;
      const straight = constraint.linearised(numeric, s);
      const excess = constraint.value(s);
      if (!straight || !Number.isFinite(excess)) continue;
      moved = true;
      const norm = straight.of.reduce((t, w) => t + w * w, 0) || 1;
      numeric.forEach((f, i) => {
        const x = code(f, s[f.id] as number) + ((excess * straight.of[i]) / norm) * 1.0000001;
        s[f.id] = decode(f, Math.max(-1, Math.min(1, x)));
      });
    }
    if (!moved) break;
  }
  return s;
}

/**
 * The region as coordinate searches see it.
 * @throws StudyError `empty-region` when no allowed point is found, `one-level` when the region leaves a factor one setting
 */
export function searchSpace(study: Study, factors: readonly Factor[], snapped: boolean, random: Random): Space {
  const k = factors.length;
  const held = heldSettings(study);
  const positions = factors.map((f) => (isNumeric(f) ? positionsOf(f, snapped) : undefined));
  const levels = factors.map((f) => (isNumeric(f) ? 0 : f.levels.length));
  const region = regionOf(study);
  const { box } = region;
  const settings = (row: Row): Settings => {
    const out: Settings = { ...held };
    for (let j = 0; j < k; j++) {
      const f = factors[j];
      out[f.id] = isNumeric(f) ? decode(f, row[j]) : f.levels[row[j]];
    }
    return out;
  };
  const keeps = (row: Row): boolean => box || region.allowed(settings(row));
  const random1 = (j: number, source: Random): number => {
    if (levels[j] > 0) return source.below(levels[j]);
    const p = positions[j];
    return p ? p[source.below(p.length)] : 2 * source.uniform() - 1;
  };
  const nearest = (j: number, x: number): number => {
    const p = positions[j];
    return p ? p.reduce((best, v) => (Math.abs(v - x) < Math.abs(best - x) ? v : best), p[0]) : x;
  };
  // Points known to be allowed: what a draw falls back on, and the proof that the region is not empty.
  const pool: Row[] = [];
  if (!box) {
    for (let tries = 0; tries < (pool.length === 0 ? 5 : 40) * ENOUGH_POINTS && pool.length < ENOUGH_POINTS; tries++) {
      const row = Float64Array.from({ length: k }, (_, j) => random1(j, random));
      if (keeps(row)) pool.push(row);
      else if (pool.length < ENOUGH_POINTS / 4) {
        const moved = pushed(region, factors, settings(row));
        const near = Float64Array.from(factors, (f, j) =>
          isNumeric(f) ? nearest(j, code(f, moved[f.id] as number)) : row[j],
        );
        if (keeps(near)) pool.push(near);
      }
    }
    if (pool.length === 0) throw new StudyError("empty-region.limits", {}, ["region"]);
    factors.forEach((f, j) => {
      const seen = new Set(pool.map((r) => r[j]));
      if (seen.size === 1 && pool.length > 20)
        throw new StudyError("one-level", { factor: f.name, level: isNumeric(f) ? null : f.levels[pool[0][j]] }, [
          "region",
        ]);
    });
  }
  return {
    factors: [...factors],
    positions,
    levels,
    box,
    settings,
    allowed: keeps,
    open(row, j) {
      if (box) return [[-1, 1]];
      const here = settings(row);
      return region.constraints.reduce<[number, number][]>(
        (open, c) => c.intervals(factors[j] as NumericFactor, here, open),
        [[-1, 1]],
      );
    },
    draw(source, width) {
      for (let tries = 0; tries < 30; tries++) {
        const row = new Float64Array(width);
        for (let j = 0; j < k; j++) row[j] = random1(j, source);
        if (keeps(row)) return row;
      }
      const row = new Float64Array(width);
      row.set(pool[source.below(pool.length)]);
      return row;
    },
  };
}
