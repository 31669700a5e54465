import { kindOf } from "../kinds/results";
import type { Message } from "../messages/message";
import type { TypingValues } from "../messages/typed";
import { readNumber } from "../numerics/read-number";
import { isNumeric } from "../study/coding";
import type { Factor, Forbidden, Goal, Limit, Response, Study } from "../study/schema";
import { messageText } from "../words/answers";

/** What people type into one cell, read and written: ranges, goals, limits and forbidden combinations. */

export type Read<T> = { ok: true; value: T } | { ok: false; said: Message<TypingValues>; sentence: string };
function no<C extends keyof TypingValues>(code: C, values: TypingValues[C]): Read<never> {
  const said = { code, values } as Message<TypingValues>;
  return { ok: false, said, sentence: messageText("typings", said) };
}

const num = (v: number): string => String(Number.parseFloat(v.toPrecision(12)));
const NUMBER = "[-+−]?(?:\\d+(?:[.,]\\d*)?|[.,]\\d+)(?:e[-+]?\\d+)?";
const SPAN = new RegExp(`^\\s*(${NUMBER})\\s*(?:to|–|—|\\.\\.\\.|…|\\.\\.|→|-)\\s*(${NUMBER})\\s*$`, "i");

/** The same of shares, each of which may be a percentage. */
const SHARES = new RegExp(SPAN.source.replaceAll(`(${NUMBER})`, `(${NUMBER}(?:\\s*%)?)`), "i");

/** What the range of a factor was typed as. */
export type RangeWords =
  | { kind: "continuous"; low: number; high: number }
  | { kind: "discrete"; values: number[] }
  | { kind: "categorical"; levels: string[] };

/** "52 to 68" is a range, "1, 2, 4" listed values, "hill, lowland" or "olive or palm" levels. */
export function readRange(text: string): Read<RangeWords> {
  const span = SPAN.exec(text);
  if (span) {
    const low = readNumber(span[1]);
    const high = readNumber(span[2]);
    if (low === null || low === undefined || high === null || high === undefined) return no("no-range", { text });
    if (low >= high) return no("range-upside-down", { low, high });
    return { ok: true, value: { kind: "continuous", low, high } };
  }
  const separator = text.includes(";") ? ";" : text.includes("/") ? "/" : ",";
  const parts = text
    .split(separator === "," ? /,\s*or\s+|,|\s+or\s+/i : separator)
    .map((p) => p.trim())
    .filter(Boolean);
  if (parts.length === 0) return no("range-empty", {});
  if (parts.length === 1) return no("range-alone", { text: parts[0] });
  const repeated = parts.find((p, i) => parts.findIndex((q) => q.toLowerCase() === p.toLowerCase()) !== i);
  if (repeated) return no("range-twice", { text: repeated });
  const values = parts.map((p) => readNumber(p, separator === "," ? "." : "either"));
  if (values.every((v): v is number => typeof v === "number"))
    return { ok: true, value: { kind: "discrete", values: [...values].sort((a, b) => a - b) } };
  return { ok: true, value: { kind: "categorical", levels: parts } };
}

/** A factor's range as it is typed. */
export const rangeText = (factor: Factor): string =>
  factor.kind === "continuous"
    ? `${num(factor.low)} to ${num(factor.high)}`
    : factor.kind === "discrete"
      ? factor.values.map(num).join(", ")
      : factor.levels.join(", ");

/** What people call an aim: the menu's own words, then others that mean the same. */
const AIM_WORDS: Readonly<Record<Goal["aim"], readonly string[]>> = {
  raise: ["raise", "maximise", "maximize", "max", "maximum", "increase", "higher", "up"],
  lower: ["lower", "minimise", "minimize", "min", "minimum", "decrease", "reduce", "down"],
  hit: ["hit", "hit a value", "target", "aim", "nominal"],
  within: ["within", "keep within", "keep in", "keep", "between", "in range", "range"],
  watch: ["watch", "watch only", "none", "observe", "report"],
};

/** The aim that some words mean; nothing at all is watching. */
export function readAim(text: string): Read<Goal["aim"]> {
  const said = text.trim().toLowerCase().replace(/\s+/g, " ");
  if (said === "" || said === "–" || said === "-") return { ok: true, value: "watch" };
  for (const [aim, words] of Object.entries(AIM_WORDS))
    if (words.includes(said)) return { ok: true, value: aim as Goal["aim"] };
  return no("no-aim", { text: text.trim() });
}

/** Goal limits: two numbers in either order, and a target for hit and within ("0.35 to 0.6 aim 0.45"). */
export function readGoal(
  aim: Goal["aim"],
  text: string,
  before?: Goal,
  about: Pick<Response, "measured" | "unit"> = {},
): Read<Goal> {
  const share = kindOf(about).percent;
  const percent = share && inPercent(text, about);
  const read = (t: string): number | null | undefined => {
    if (!share) return readNumber(t);
    return readShare(percent && !t.includes("%") ? `${t}%` : t);
  };
  if (aim === "watch") return { ok: true, value: { aim: "watch" } };
  const example = goalExample(aim, about);
  const [limits, target] = text.split(/aim|target|@/i);
  const span = (share ? SHARES : SPAN).exec(limits);
  // “5 to 1 %” are percentages both.
  if (span && share && span[2].endsWith("%") && !span[1].endsWith("%")) span[1] += "%";
  const ends = span ? [read(span[1]), read(span[2])] : [];
  if (!span || ends.some((v) => typeof v !== "number")) return no("no-limits", { text, example });
  const [a, b] = ends as [number, number];
  if (a === b) return no("limits-alike", { limit: a, example });
  const low = Math.min(a, b);
  const high = Math.max(a, b);
  const kept = before && before.aim !== "watch" ? before : undefined;
  if (aim === "raise" || aim === "lower") {
    const weight = kept && "weight" in kept ? kept.weight : undefined;
    return { ok: true, value: { aim, low, high, ...(weight === undefined ? {} : { weight }) } };
  }
  const t = target === undefined ? undefined : read(target);
  if (target !== undefined && typeof t !== "number") return no("aim-no-number", { text: target.trim(), example });
  if (typeof t === "number" && (t < low || t > high)) return no("aim-outside", { aim: t, low, high });
  const weights = {
    ...(kept && "lowWeight" in kept && kept.lowWeight !== undefined ? { lowWeight: kept.lowWeight } : {}),
    ...(kept && "highWeight" in kept && kept.highWeight !== undefined ? { highWeight: kept.highWeight } : {}),
  };
  if (aim === "hit") return { ok: true, value: { aim, low, high, target: t ?? (low + high) / 2, ...weights } };
  return { ok: true, value: { aim, low, high, ...(t === null || t === undefined ? {} : { target: t }), ...weights } };
}

/** Limits as they may be typed. */
export function goalExample(aim: Goal["aim"], about: Pick<Response, "measured"> = {}): string {
  const { examples } = kindOf(about);
  return aim === "raise" || aim === "lower" ? examples[aim] : examples.between;
}

/**
 * Whether numbers typed of a share are per cent: the response is measured in them, or one is above 1, which no share
 * is.
 */
const inPercent = (text: string, { unit }: Pick<Response, "unit">): boolean =>
  unit?.trim() === "%" || (text.match(new RegExp(NUMBER, "gi")) ?? []).some((n) => Math.abs(readNumber(n) ?? 0) > 1);

/** A share as it is typed and read: in per cent. */
export const shareText = (share: number): string => `${num(100 * share)} %`;

/** A share: “2 %” and “0.02” are the same. Undefined where it is none; null where nothing stands. */
export function readShare(text: string): number | null | undefined {
  const percent = /^(.*?)\s*%$/.exec(text.trim());
  const value = readNumber(percent ? percent[1] : text);
  return percent && typeof value === "number" ? Number((value / 100).toPrecision(12)) : value;
}

/** A goal's limits as they are typed, worst first for raise and lower; those of a share in per cent. */
export function goalText(goal: Goal, about: Pick<Response, "measured"> = {}): string {
  if (goal.aim === "watch") return "";
  const shown = kindOf(about).percent ? shareText : num;
  if (goal.aim === "raise") return `${shown(goal.low)} to ${shown(goal.high)}`;
  if (goal.aim === "lower") return `${shown(goal.high)} to ${shown(goal.low)}`;
  return `${shown(goal.low)} to ${shown(goal.high)}${goal.target === undefined ? "" : ` aim ${shown(goal.target)}`}`;
}

/** A confidence: "95", "95 %" and "0.95" are the same. */
export function readConfidence(text: string): Read<number> {
  const value = readNumber(text.replace("%", "").trim());
  const share = typeof value === "number" ? Number((value > 1 ? value / 100 : value).toPrecision(12)) : Number.NaN;
  if (!(share > 0.5 && share < 1)) return no("no-confidence", { text });
  return { ok: true, value: share };
}

/** Hard limits: "48 to 72", or nothing. */
export function readSpan(text: string): Read<[number, number] | undefined> {
  if (text.trim() === "") return { ok: true, value: undefined };
  const span = SPAN.exec(text);
  const low = span ? readNumber(span[1]) : undefined;
  const high = span ? readNumber(span[2]) : undefined;
  if (typeof low !== "number" || typeof high !== "number" || low >= high) return no("no-span", { text });
  return { ok: true, value: [low, high] };
}

const simple = (s: string): string => s.toLowerCase().replace(/[^\p{L}\p{N}]+/gu, "");

/** The factor a person means: by name, id or letter, or by a beginning that only one name has. */
function factorMeant(study: Pick<Study, "factors">, phrase: string): Factor | undefined {
  const w = simple(phrase);
  const exact =
    study.factors.find((f) => simple(f.name) === w || simple(f.id) === w) ??
    study.factors.find((f) => f.letter.toLowerCase() === w);
  if (exact) return exact;
  const begun = study.factors.filter((f) => w.length >= 3 && simple(f.name).startsWith(w));
  return begun.length === 1 ? begun[0] : undefined;
}

export type RegionWords = { kind: "limit"; limit: Limit } | { kind: "forbidden"; forbidden: Forbidden };

/**
 * A sentence about the region: "1 × Temperature + 4 × Dose ≤ 96" is a linear limit, "Wool lot is lowland and
 * Temperature is 64 to 68" a combination that must not be run.
 */
export function readRegion(study: Pick<Study, "factors">, text: string): Read<RegionWords> {
  const sides = text.split(/<=|≤|>=|≥|<|>|at most|at least/i);
  if (sides.length === 2 && !/\bis\b/i.test(text)) {
    const side = /<=|≤|<|at most/i.test(text) ? "most" : "least";
    const bound = readNumber(sides[1]);
    if (typeof bound !== "number") return no("bound-no-number", { text: sides[1].trim() });
    const terms: Record<string, number> = {};
    const pieces = sides[0]
      .replace(/[−–]/g, "-")
      .replace(/-/g, "+-")
      .split("+")
      .map((p) => p.trim())
      .filter(Boolean);
    for (const piece of pieces) {
      const match = /^(-?)\s*(\d+(?:[.,]\d+)?)?\s*[×*x·]?\s*(.+)$/.exec(piece);
      const factor = match ? factorMeant(study, match[3]) : undefined;
      if (!match || !factor) return no("limit-no-factor", { text: piece, like: study.factors[0]?.name ?? "Dose" });
      if (!isNumeric(factor)) return no("limit-category", { factor: factor.name, level: factor.levels[0] });
      const weight = (match[2] ? (readNumber(match[2]) ?? 1) : 1) * (match[1] ? -1 : 1);
      terms[factor.id] = (terms[factor.id] ?? 0) + weight;
    }
    if (pieces.length === 0) return no("limit-empty", {});
    return { ok: true, value: { kind: "limit", limit: { terms, at: side, bound } } };
  }
  const parts = text
    .split(/\s+and\s+/i)
    .map((p) => p.trim())
    .filter(Boolean);
  const forbidden: Forbidden = {};
  for (const part of parts) {
    const match = /^(.+?)\s+is\s+(.+)$/i.exec(part);
    const factor = match ? factorMeant(study, match[1]) : undefined;
    if (!match) return no("no-region", { text: part });
    if (!factor) return no("no-factor", { text: match[1] });
    const said = match[2].trim();
    if (!isNumeric(factor)) {
      const levels = said
        .split(/\s+or\s+|,/)
        .map((l) => factor.levels.find((x) => x.toLowerCase() === l.trim().toLowerCase()));
      if (levels.some((l) => l === undefined))
        return no("no-level", { text: said, factor: factor.name, levels: factor.levels });
      forbidden[factor.id] = levels as string[];
      continue;
    }
    const span = SPAN.exec(said);
    const most = /^(?:at most|≤|<=|below|under)\s*(.+)$/i.exec(said);
    const least = /^(?:at least|≥|>=|above|over)\s*(.+)$/i.exec(said);
    const from = readNumber(span?.[1] ?? least?.[1] ?? "");
    const to = readNumber(span?.[2] ?? most?.[1] ?? "");
    const single = readNumber(said);
    if (typeof single === "number" && !span) forbidden[factor.id] = { from: single, to: single };
    else if (typeof from === "number" || typeof to === "number")
      forbidden[factor.id] = {
        ...(typeof from === "number" ? { from } : {}),
        ...(typeof to === "number" ? { to } : {}),
      };
    else return no("no-setting", { text: said, factor: factor.name });
  }
  if (Object.keys(forbidden).length === 0) return no("region-empty", {});
  return { ok: true, value: { kind: "forbidden", forbidden } };
}

/** An id made from a name, not yet taken. */
export function freshId(name: string, taken: ReadonlySet<string>): string {
  const stem =
    name
      .toLowerCase()
      .normalize("NFKD")
      .replace(/[\u0300-\u036f]/g, "")
      .replace(/[^a-z0-9]+/g, "-")
      .replace(/^-|-$/g, "")
      .slice(0, 40) || "x";
  for (let i = 1; ; i++) {
    const id = i === 1 ? stem : `${stem}-${i}`;
    if (!taken.has(id)) return id;
  }
}
