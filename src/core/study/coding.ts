import { activeFactors, heldAt } from "./roles";
import type { Factor, NumericFactor, Setting, Settings, Study, Trial } from "./schema";

/** Whether a factor is a number rather than a category. */
export const isNumeric = (factor: Factor): factor is NumericFactor => factor.kind !== "categorical";

/** Low and high of a numeric factor: its range, or its smallest and largest listed value. */
export const rangeOf = (factor: NumericFactor): [number, number] =>
  factor.kind === "continuous"
    ? [factor.low, factor.high]
    : [factor.values[0], factor.values[factor.values.length - 1]];

/** The level of a test that goes with a confidence: 0.05 of 0.95, without the dust of binary fractions. */
export const significance = ({ confidence }: { confidence: number }): number =>
  Number((1 - confidence).toPrecision(12));

/** The responses that are measured; spreads, which are worked out, left out. */
export const measuredResponses = (study: Pick<Study, "responses">): Study["responses"] =>
  study.responses.filter((r) => r.spread === undefined);

/** Coded value: low → −1, high → +1, on the factor's linear or log scale. */
export function code(factor: NumericFactor, value: number, range = rangeOf(factor)): number {
  const [low, high] = range;
  if (factor.scale === "log") return (2 * Math.log(value / low)) / Math.log(high / low) - 1;
  // Differences from the ends: of a narrow range far from zero these keep the digits that a middle would lose.
  return (value - low - (high - value)) / (high - low);
}

/** Natural value of a coded one. */
export function decode(factor: NumericFactor, x: number): number {
  const [low, high] = rangeOf(factor);
  if (x === -1) return low;
  if (x === 1) return high;
  if (factor.scale === "log") return low * (high / low) ** ((x + 1) / 2);
  return (low + high) / 2 + (x * (high - low)) / 2;
}

/** The middle of a numeric factor's range on its scale. */
export const middle = (factor: NumericFactor): number => decode(factor, 0);

/** Rounds away what binary fractions add to a value on a decimal step. */
const tidy = (value: number): number => Number.parseFloat(value.toPrecision(12));

/** A value less the last few bits that a calculation leaves beside one of twelve digits; any other as it is. */
export function withoutDust(factor: NumericFactor, value: number): number {
  const [low, high] = rangeOf(factor);
  const scale = Math.max(Math.abs(low), Math.abs(high), Math.abs(value));
  const unit = 10 ** (Math.floor(Math.log10(scale)) - 11);
  const clean = tidy(Math.round(value / unit) * unit);
  return Math.abs(clean - value) <= 8 * Number.EPSILON * scale ? clean : value;
}

/**
 * Nearest settable value within the hard limits (without them within low … high): a whole number of steps from
 * low, or the nearest listed value. Without a step the value itself, less what binary fractions add to it.
 *
 * @param beyond for axial points asked for: where no hard limit is stated, past low and high as well
 */
export function snap(factor: NumericFactor, value: number, beyond = false): number {
  if (factor.kind === "discrete")
    return factor.values.reduce(
      (best, v) => (Math.abs(v - value) < Math.abs(best - value) ? v : best),
      factor.values[0],
    );
  if (factor.step === undefined) return withoutDust(factor, value);
  const { low, step } = factor;
  const floor = factor.hardLow ?? (beyond ? Number.NEGATIVE_INFINITY : low);
  const ceiling = factor.hardHigh ?? (beyond ? Number.POSITIVE_INFINITY : factor.high);
  let k = Math.round((value - low) / step);
  while (low + k * step < floor - 1e-9 * step) k++;
  while (low + k * step > ceiling + 1e-9 * step) k--;
  return tidy(low + k * step);
}

/** Decimals that a number is written with. */
const decimalsOf = (v: number): number => /\.(\d+)$/.exec(String(v))?.[1].length ?? 0;
const powerBelow = (v: number): number => 10 ** Math.floor(Math.log10(v) + 1e-9);

/**
 * How finely a factor without steps is set: about a ten-thousandth of the range (on a log scale four or five
 * significant digits), but no finer than its ends are written, or a five-hundredth of the range where they are coarse.
 */
function fineness({ scale, low, high }: Factor & { kind: "continuous" }, value: number): number {
  if (scale === "log") return powerBelow(Math.abs(value) * 1e-4);
  const finest = powerBelow((high - low) * 1e-4);
  const written = 10 ** -Math.max(decimalsOf(low), decimalsOf(high));
  if (finest >= written) return finest;
  return written <= (high - low) / 500 ? written : powerBelow((high - low) / 500);
}

/**
 * A step to offer for a factor that has none: of 1, 2 or 5 times a power of ten the largest that goes ten times or more
 * into the range, and evenly. Undefined where none does, or where values stand on a log scale.
 */
export function offeredStep(factor: Factor): number | undefined {
  if (factor.kind !== "continuous" || factor.step !== undefined || factor.scale === "log") return undefined;
  const range = factor.high - factor.low;
  const power = powerBelow(range / 10);
  return [5, 2, 1, 0.5, 0.2, 0.1]
    .map((m) => tidy(m * power))
    .find((step) => step <= (range / 10) * (1 + 1e-9) && Math.abs(range / step - Math.round(range / step)) < 1e-6);
}

/**
 * A value of a factor without steps as a person would type it, within the ends. Others stay as they are.
 *
 * @param towards which way it is rounded; to the nearest unless said
 */
export function typable(factor: NumericFactor, value: number, towards: "near" | "down" | "up" = "near"): number {
  if (factor.kind !== "continuous" || factor.step !== undefined) return value;
  const unit = fineness(factor, value);
  const round = { near: Math.round, down: Math.floor, up: Math.ceil }[towards];
  const rounded = tidy(round(tidy(value / unit)) * unit);
  return Math.min(factor.hardHigh ?? factor.high, Math.max(factor.hardLow ?? factor.low, rounded));
}

/** What was really set: as-run values where they were recorded, else the plan's. */
export const settingsAsRun = (trial: Trial): Settings =>
  trial.asRun ? { ...trial.settings, ...trial.asRun } : trial.settings;

/** Coded settings as people and files see them: numbers for numeric factors, level names for categories. */
export function codedSettings(factors: readonly Factor[], settings: Settings): Settings {
  const out: Settings = {};
  for (const f of factors) {
    const value = settings[f.id];
    if (value !== undefined) out[f.id] = isNumeric(f) ? code(f, value as number) : value;
  }
  return out;
}

/** Centre settings: every numeric factor at mid (snapped on request), categories at their first level. */
export function centreSettings(factors: readonly Factor[], snapped = true): Settings {
  const out: Settings = {};
  for (const f of factors)
    out[f.id] = heldAt(f) ?? (isNumeric(f) ? (snapped ? snap(f, middle(f)) : middle(f)) : f.levels[0]);
  return out;
}

/** The ranges a trial's wave was planned with; today's where the recipe kept none. */
export function plannedRange(study: Study, wave: string, factor: NumericFactor): [number, number] {
  const kept = study.waves.find((w) => w.id === wave)?.plan.ranges?.[factor.id];
  return kept ?? rangeOf(factor);
}

/** Numeric distance in coded units used to tell settings apart: half a step, or a billionth of the range. */
export function sameSetting(factor: Factor, a: Setting, b: Setting): boolean {
  if (!isNumeric(factor)) return a === b;
  const step = factor.kind === "continuous" ? factor.step : undefined;
  const [low, high] = rangeOf(factor);
  const x = a as number;
  const y = b as number;
  if (step !== undefined) return Math.round((x - low) / step) === Math.round((y - low) / step);
  return Math.abs(x - y) <= 1e-9 * Math.max(Math.abs(x), Math.abs(y), high - low);
}

/**
 * Where a setting stands between the ends of the range its wave had: the sign of its end, or NaN off both. A corner
 * rounded to the nearest step is still a corner.
 */
export function endOf(study: Study, wave: string, factor: NumericFactor, value: number): number {
  const range = plannedRange(study, wave, factor);
  const x = code(factor, value, range);
  const slack =
    factor.kind === "continuous" && factor.step !== undefined ? Math.min(0.4, factor.step / (range[1] - range[0])) : 0;
  return Math.abs(Math.abs(x) - 1) <= slack + 1e-9 ? Math.sign(x) : Number.NaN;
}

/** Whether every numeric factor in use was planned at low or at high of the range its wave had. */
export const isCorner = (study: Study, trial: Trial): boolean =>
  activeFactors(study)
    .filter(isNumeric)
    .every((f) => !Number.isNaN(endOf(study, trial.wave, f, trial.settings[f.id] as number)));

/** Whether every numeric factor in use was planned at the middle of the range its wave had (within half a step). */
export function isCentre(study: Study, trial: Trial): boolean {
  const numeric = activeFactors(study).filter(isNumeric);
  if (numeric.length === 0) return false;
  return numeric.every((f) => {
    const range = plannedRange(study, trial.wave, f);
    const slack =
      f.kind === "continuous" && f.step !== undefined
        ? Math.min(0.5, (f.step / (range[1] - range[0])) * (1 + 1e-9))
        : 1e-9;
    const x = Math.abs(code(f, trial.settings[f.id] as number, range));
    if (f.kind === "discrete") {
      const nearest = Math.min(...f.values.map((v) => Math.abs(code(f, v, range))));
      return x <= nearest + 1e-9 && nearest < 1;
    }
    return x <= slack;
  });
}
