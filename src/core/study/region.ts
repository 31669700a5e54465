import type { Message } from "../messages/message";
import type { PlaceValues } from "../messages/places";
import { centreSettings, decode, isNumeric, rangeOf, snap, typable } from "./coding";
import { type Constraint, constraintsOf, TOLERANCE } from "./constraint";
import { activeFactors } from "./roles";
import type { Factor, NumericFactor, Settings, Study } from "./schema";

/** What a study allows to be run, made once for as many points as are asked about. */
export interface Region {
  constraints: readonly Constraint[];
  /** Nothing but the ranges bounds it. */
  box: boolean;
  /** Settings keep every limit and fall into no forbidden combination; ranges apart. */
  allowed(settings: Settings): boolean;
}

/** The region of a study. */
export function regionOf(study: Pick<Study, "region" | "factors">): Region {
  const constraints = constraintsOf(study);
  return {
    constraints,
    box: constraints.length === 0,
    allowed: (settings) => constraints.every((c) => c.keeps(settings)),
  };
}

/** Whether settings keep the study's linear limits and forbidden combinations; ranges apart. */
export const allowed = (study: Pick<Study, "region" | "factors">, settings: Settings): boolean =>
  regionOf(study).allowed(settings);

/** What settings break of the region, in words. */
export const broken = (study: Pick<Study, "region" | "factors">, settings: Settings): string[] =>
  constraintsOf(study).flatMap((c) => (c.keeps(settings) ? [] : [c.text]));

/**
 * What settings break: hard limits (ranges where none is stated), steps, linear limits and
 * forbidden combinations. Settings of retired factors are not looked at.
 *
 * @param steps whether places off the steps count
 */
export function violations(
  study: Pick<Study, "region" | "factors">,
  settings: Settings,
  steps = true,
): Message<PlaceValues>[] {
  const out = activeFactors(study).flatMap((f): Message<PlaceValues>[] => {
    const value = settings[f.id];
    if (!isNumeric(f) || value === undefined) return [];
    const v = value as number;
    const [low, high] = rangeOf(f);
    const slack = TOLERANCE * (high - low);
    const stated = f.kind === "continuous" ? { low: f.hardLow, high: f.hardHigh } : { low: undefined, high: undefined };
    const about = { factor: f.name, value: v, unit: f.unit };
    const end = (side: "low" | "high", beyond: boolean): Message<PlaceValues>[] =>
      beyond
        ? [
            {
              code: "past-end",
              values: {
                ...about,
                side,
                end: stated[side] ?? (side === "low" ? low : high),
                hard: stated[side] !== undefined,
              },
            },
          ]
        : [];
    const place = f.kind === "continuous" && f.step !== undefined ? (v - low) / f.step : 0;
    const off: Message<PlaceValues>[] =
      steps && f.kind === "continuous" && Math.abs(place - Math.round(place)) > 1e-6
        ? [{ code: "off-step", values: { ...about, step: f.step ?? 0, from: low } }]
        : [];
    return [...end("low", v < (stated.low ?? low) - slack), ...end("high", v > (stated.high ?? high) + slack), ...off];
  });
  const limits = broken(study, settings).map(
    (limit): Message<PlaceValues> => ({ code: "breaks-region", values: { limit } }),
  );
  return [...out, ...limits];
}

/**
 * What makes a setting as it was run doubtful: past a hard limit, or without one half a range or more past the range.
 *
 * @returns what is asked; undefined where there is nothing to ask
 */
export function doubtful(factor: Factor, value: Settings[string]): Message<PlaceValues> | undefined {
  if (!isNumeric(factor)) return undefined;
  const [low, high] = rangeOf(factor);
  const stated = factor.kind === "continuous" ? { low: factor.hardLow, high: factor.hardHigh } : {};
  const v = value as number;
  const spare = (high - low) / 2;
  const side = v < (stated.low ?? low - spare) ? "low" : v > (stated.high ?? high + spare) ? "high" : undefined;
  if (!side) return undefined;
  const end = stated[side] ?? (side === "low" ? low : high);
  const { name, unit } = factor;
  return {
    code: "doubtful",
    values: { factor: name, value: v, unit, side, end, hard: stated[side] !== undefined },
  };
}

/**
 * Settings as a person would type them where they are allowed so: each factor to the nearest typable value, else the
 * one below or above it that keeps the region; what can only stand where it stands is left to twelve digits.
 */
export function typableSettings(study: Pick<Study, "region" | "factors">, settings: Settings): Settings {
  const free = activeFactors(study).filter(
    (f): f is NumericFactor => f.kind === "continuous" && f.step === undefined && settings[f.id] !== undefined,
  );
  if (free.length === 0) return settings;
  const region = regionOf(study);
  const near: Settings = { ...settings };
  for (const f of free) near[f.id] = typable(f, settings[f.id] as number);
  if (region.allowed(near)) return near;
  const out: Settings = { ...settings };
  for (const f of free)
    for (const towards of ["near", "down", "up"] as const) {
      const next = { ...out, [f.id]: typable(f, settings[f.id] as number, towards) };
      if (!region.allowed(next)) continue;
      out[f.id] = next[f.id];
      break;
    }
  for (const f of free) {
    const next = { ...out, [f.id]: snap(f, out[f.id] as number) };
    if (region.allowed(next)) out[f.id] = next[f.id];
  }
  return out;
}

/** Whether every numeric setting lies within low … high. */
export function withinRanges(factors: readonly Factor[], settings: Settings): boolean {
  return factors.every((f) => {
    if (!isNumeric(f) || settings[f.id] === undefined) return true;
    const [low, high] = rangeOf(f);
    const v = settings[f.id] as number;
    const slack = TOLERANCE * (high - low);
    return v >= low - slack && v <= high + slack;
  });
}

/** How many of the corners (all low–high and category combinations, at most 4,096 looked at) the region excludes. */
export function excludedCorners(study: Study): { excluded: number; corners: number } {
  const factors = activeFactors(study);
  const choices = factors.map((f) => (isNumeric(f) ? rangeOf(f) : f.levels) as (number | string)[]);
  const corners = choices.reduce((total, c) => total * c.length, factors.length === 0 ? 0 : 1);
  const looked = Math.min(corners, 4096);
  const region = regionOf(study);
  let excluded = 0;
  for (let i = 0; i < looked; i++) {
    // Spread the look evenly when there are too many corners to see them all.
    let rest = Math.floor((i * corners) / looked);
    const settings: Settings = {};
    factors.forEach((f, j) => {
      settings[f.id] = choices[j][rest % choices[j].length];
      rest = Math.floor(rest / choices[j].length);
    });
    if (!region.allowed(settings)) excluded++;
  }
  return { excluded: looked === corners ? excluded : Math.round((excluded * corners) / looked), corners };
}

/**
 * Share of the other factors' settings that the region excludes over the plane of two factors, cell by cell from low
 * to high (rows upwards): 1 where every setting is excluded. Others that the region names run over their ends and
 * middle, categories over all levels.
 */
export function excludedShares(study: Study, a: NumericFactor, b: NumericFactor, cells: number): number[] {
  const region = regionOf(study);
  const named = new Set(region.constraints.flatMap((c) => c.factors));
  const others = activeFactors(study).filter((f) => f.id !== a.id && f.id !== b.id && named.has(f.id));
  let rest = [centreSettings(study.factors)];
  for (const f of others.slice(0, 4))
    rest = (isNumeric(f) ? [-1, 0, 1].map((x) => decode(f, x)) : f.levels).flatMap((v) =>
      rest.map((s) => ({ ...s, [f.id]: v })),
    );
  return Array.from({ length: cells * cells }, (_, i) => {
    const u = decode(a, -1 + (2 * ((i % cells) + 0.5)) / cells);
    const v = decode(b, -1 + (2 * (Math.floor(i / cells) + 0.5)) / cells);
    return rest.filter((s) => !region.allowed({ ...s, [a.id]: u, [b.id]: v })).length / rest.length;
  });
}
