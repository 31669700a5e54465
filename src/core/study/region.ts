import { activeFactors, centreSettings, decode, isNumeric, rangeOf } from "./coding";
import type { Factor, Forbidden, Limit, NumericFactor, Settings, Study } from "./schema";

const SLACK = 1e-9;

/** Left side of a linear limit at some settings. */
export const limitValue = (limit: Limit, settings: Settings): number =>
  Object.entries(limit.terms).reduce((total, [id, weight]) => total + weight * (settings[id] as number), 0);

/** Whether settings keep a linear limit (to a relative 1e−9). */
export function keepsLimit(limit: Limit, settings: Settings): boolean {
  const value = limitValue(limit, settings);
  const slack = SLACK * Math.max(1, Math.abs(limit.bound));
  return limit.at === "most" ? value <= limit.bound + slack : value >= limit.bound - slack;
}

/** Whether settings fall into a forbidden combination: all of its parts at once. */
export function hitsForbidden(combination: Forbidden, settings: Settings): boolean {
  return Object.entries(combination).every(([id, part]) => {
    const value = settings[id];
    if (value === undefined) return false;
    if (Array.isArray(part)) return part.some((p) => p === value);
    const v = value as number;
    return v >= (part.from ?? Number.NEGATIVE_INFINITY) - SLACK && v <= (part.to ?? Number.POSITIVE_INFINITY) + SLACK;
  });
}

/** Whether settings keep the study's linear limits and forbidden combinations; ranges apart. */
export const allowed = (study: Pick<Study, "region">, settings: Settings): boolean =>
  study.region.limits.every((limit) => keepsLimit(limit, settings)) &&
  !study.region.forbidden.some((combination) => hitsForbidden(combination, settings));

/** Whether every numeric setting lies within low … high. */
export function withinRanges(factors: readonly Factor[], settings: Settings): boolean {
  return factors.every((f) => {
    if (!isNumeric(f) || settings[f.id] === undefined) return true;
    const [low, high] = rangeOf(f);
    const v = settings[f.id] as number;
    const slack = SLACK * (high - low);
    return v >= low - slack && v <= high + slack;
  });
}

/** Whether the study's region has limits beyond its ranges. */
export const isBox = (study: Pick<Study, "region">): boolean =>
  study.region.limits.length === 0 && study.region.forbidden.length === 0;

/** A number as text without the noise of binary fractions. */
const plain = (v: number): string => String(Number.parseFloat(v.toPrecision(10)));

/** A limit as the sentence it is written as: "1 × Temperature + 4 × Dose ≤ 96". */
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

/** How many of the corners (all low–high and category combinations, at most 4,096 looked at) the region excludes. */
export function excludedCorners(study: Study): { excluded: number; corners: number } {
  const factors = activeFactors(study);
  const choices = factors.map((f) => (isNumeric(f) ? rangeOf(f) : f.levels) as (number | string)[]);
  const corners = choices.reduce((total, c) => total * c.length, factors.length === 0 ? 0 : 1);
  const looked = Math.min(corners, 4096);
  let excluded = 0;
  for (let i = 0; i < looked; i++) {
    // Spread the look evenly when there are too many corners to see them all.
    let rest = Math.floor((i * corners) / looked);
    const settings: Settings = {};
    factors.forEach((f, j) => {
      settings[f.id] = choices[j][rest % choices[j].length];
      rest = Math.floor(rest / choices[j].length);
    });
    if (!allowed(study, settings)) excluded++;
  }
  return { excluded: looked === corners ? excluded : Math.round((excluded * corners) / looked), corners };
}

/**
 * Share of the other factors' settings that the region excludes over the plane of two factors, cell by cell from low
 * to high (rows upwards): 1 where every setting is excluded. Others that the region names run over their ends and
 * middle, categories over all levels.
 */
export function excludedShares(study: Study, a: NumericFactor, b: NumericFactor, cells: number): number[] {
  const named = new Set([
    ...study.region.limits.flatMap((l) => Object.keys(l.terms)),
    ...study.region.forbidden.flatMap((c) => Object.keys(c)),
  ]);
  const others = activeFactors(study).filter((f) => f.id !== a.id && f.id !== b.id && named.has(f.id));
  let rest = [centreSettings(study.factors)];
  for (const f of others.slice(0, 4))
    rest = (isNumeric(f) ? [-1, 0, 1].map((x) => decode(f, x)) : f.levels).flatMap((v) =>
      rest.map((s) => ({ ...s, [f.id]: v })),
    );
  return Array.from({ length: cells * cells }, (_, i) => {
    const u = decode(a, -1 + (2 * ((i % cells) + 0.5)) / cells);
    const v = decode(b, -1 + (2 * (Math.floor(i / cells) + 0.5)) / cells);
    return rest.filter((s) => !allowed(study, { ...s, [a.id]: u, [b.id]: v })).length / rest.length;
  });
}
