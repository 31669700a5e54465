import { EigenvalueDecomposition, Matrix } from "ml-matrix";
import type { Message } from "../messages/message";
import type { RemarkValues } from "../messages/remarks";
import type { Surface } from "../model/surface";
import type { Beyond } from "../study/beyond";
import { centreSettings, code, codedSettings, decode, rangeOf, snap } from "../study/coding";
import { StudyError } from "../study/error";
import { allowed, withinRanges } from "../study/region";
import { heldSettings } from "../study/roles";
import type { NumericFactor, Settings, Study } from "../study/schema";
import { checkSettings } from "../study/validate";

/** One point of a path of steepest ascent. */
export interface PathPoint {
  step: number;
  /** On settable steps. */
  settings: Settings;
  coded: Settings;
  predicted: number;
  meanInterval: [number, number] | null;
  /** Null where events are counted: a path leads where no lot will be made, and none is laid out. */
  trialInterval: [number, number] | null;
  /** Within the ranges and limits that earlier trials covered. */
  inside: boolean;
}

export interface Path {
  points: PathPoint[];
  /** The factor whose step was chosen and its step in natural units (a ratio on a log scale). */
  by: { factor: string; step: number } | null;
  /** Whether the path climbs or falls. */
  towards: "higher" | "lower";
  /** Where it would go on past low or high and no hard limit is stated: how far may it? Empty where it would not. */
  beyond: Beyond[];
  /** Why the path ends, or why there is none. */
  reason: Message<RemarkValues>;
}

const MOST_POINTS = 12;
/** Steps past a range that are looked at to say how far the path would go. */
const STEPS_BEYOND = 4;

/** What ends the range of a factor on the side of a value that lies past it. */
type Passed = { hard: true } | { hard: false; limit: Beyond["limit"] };

/** Whether a value lies past what a factor can be set to, or past low or high where no hard limit says how far. */
function passed(f: NumericFactor, value: number): Passed | undefined {
  if (f.kind === "discrete")
    return value < f.values[0] - 1e-9 || value > f.values[f.values.length - 1] + 1e-9 ? { hard: true } : undefined;
  const [low, high] = rangeOf(f);
  const slack = 1e-9 * (high - low);
  if (value < (f.hardLow ?? low) - slack)
    return f.hardLow === undefined ? { hard: false, limit: "hardLow" } : { hard: true };
  if (value > (f.hardHigh ?? high) + slack)
    return f.hardHigh === undefined ? { hard: false, limit: "hardHigh" } : { hard: true };
  return undefined;
}

export interface AscentOptions {
  /** Step of the steepest factor in natural units; half of its half-range unless said. */
  step?: number;
  most?: number;
}

/**
 * Where a path starts: in the middle of the ranges, categories at the setpoint's level, else the first.
 *
 * @param at settings that are asked for
 * @throws StudyError for settings that are not the study's
 */
export function pathStart(study: Study, at: Settings | undefined): Settings {
  const chosen = study.setpoint?.settings;
  const levels = study.factors.flatMap((f) =>
    f.kind === "categorical" && chosen?.[f.id] !== undefined ? [[f.id, chosen[f.id]]] : [],
  );
  const start = { ...centreSettings(study.factors), ...Object.fromEntries(levels), ...heldSettings(study), ...at };
  checkSettings(study.factors, start, ["at"]);
  return start;
}

/**
 * The path of steepest ascent from a point (Box & Wilson 1951): for a first-order model the straight line along its
 * gradient, with curvature the best point at each distance (ridge analysis, Hoerl 1959; Draper 1963), both in coded
 * units. It climbs or falls as the goal asks, and ends at hard limits, at low and high where none are stated (what lies
 * beyond may not be there to be set), at limits of the region, where a target is passed, or where the model turns.
 *
 * @param from where the path starts; categories stay as there
 * @throws StudyError for a step that is not above 0
 */
// One walk, whose stops share what the walk knows.
export function steepestAscent(study: Study, predictor: Surface, from: Settings, options: AscentOptions = {}): Path {
  if (options.step !== undefined && !(options.step > 0 && Number.isFinite(options.step)))
    throw new StudyError("bad-step", { step: options.step }, ["step"]);
  const goal = study.responses.find((r) => r.id === predictor.response)?.goal ?? { aim: "watch" as const };
  const start = predictor.value(from);
  const target = goal.aim === "hit" || goal.aim === "within" ? (goal.target ?? (goal.low + goal.high) / 2) : undefined;
  const up = goal.aim === "lower" ? false : target !== undefined ? start < target : true;
  const towards = up ? "higher" : "lower";
  const none = (reason: Path["reason"]): Path => ({
    points: [],
    by: null,
    towards,
    beyond: [],
    reason,
  });
  const quadratic = predictor.quadratic(from);
  if (!quadratic) return none({ code: "path-third-order", values: {} });
  const { ids, linear, square } = quadratic;
  const k = ids.length;
  const factors = ids.map((id) => study.factors.find((f) => f.id === id) as NumericFactor);
  const origin = factors.map((f) => code(f, from[f.id] as number));
  // Seen from the start, with up always the way to go.
  const sign = (up ? 1 : -1) * (predictor.link.decreasing ? -1 : 1);
  const slope = Float64Array.from({ length: k }, (_, i) => {
    let g = linear[i];
    for (let j = 0; j < k; j++) g += 2 * square[i * k + j] * origin[j];
    return sign * g;
  });
  const steep = Math.hypot(...slope);
  if (k === 0 || !(steep > 1e-12 * (Math.abs(quadratic.constant) + 1e-300)))
    return none({ code: "path-level", values: {} });
  const lead = slope.reduce((best, g, i) => (Math.abs(g) > Math.abs(slope[best]) ? i : best), 0);
  const leadFactor = factors[lead];
  const natural =
    options.step ??
    (leadFactor.scale === "log" ? undefined : Math.abs(decode(leadFactor, 0.5) - decode(leadFactor, 0)));
  const codedStep =
    natural === undefined ? 0.5 : Math.abs(code(leadFactor, (from[leadFactor.id] as number) + natural) - origin[lead]);
  const radius = (codedStep * steep) / Math.abs(slope[lead]);
  const evd = new EigenvalueDecomposition(
    new Matrix(Array.from({ length: k }, (_, i) => Array.from({ length: k }, (__, j) => sign * square[i * k + j]))),
    { assumeSymmetric: true },
  );
  const values = evd.realEigenvalues;
  const top = Math.max(...values, 0);
  const along = values.map((_, j) => slope.reduce((t, g, i) => t + g * evd.eigenvectorMatrix.get(i, j), 0));
  /** x(μ) = ½(μI − B)⁻¹ g in eigen coordinates, its length falling as μ rises above the largest eigenvalue. */
  const length = (mu: number): number => Math.hypot(...along.map((g, j) => g / (2 * (mu - values[j]))));
  const best = (r: number): number[] => {
    let low = top;
    let high = top + steep / (2 * r) + 1e-12;
    while (length(high) > r) high = top + 2 * (high - top);
    for (let i = 0; i < 200; i++) {
      const mid = (low + high) / 2;
      if (mid === low || mid === high) break;
      if (length(mid) > r) low = mid;
      else high = mid;
    }
    const z = along.map((g, j) => g / (2 * (high - values[j])));
    // Where the gradient has no part along the highest eigenvector, the rest of the way is along it.
    const short = Math.sqrt(Math.max(0, r * r - z.reduce((t, v) => t + v * v, 0)));
    if (short > 1e-6 * r) z[values.indexOf(Math.max(...values))] += short;
    return origin.map((o, i) => o + z.reduce((t, v, j) => t + v * evd.eigenvectorMatrix.get(i, j), 0));
  };
  const points: PathPoint[] = [];
  let reason: Path["reason"] | undefined;
  let before = Number.NaN;
  const most = options.most ?? MOST_POINTS;
  const place = (step: number): { x: number[]; settings: Settings } => {
    const x = step === 0 ? origin : best(step * radius);
    const settings: Settings = { ...from };
    factors.forEach((f, i) => {
      settings[f.id] = snap(f, decode(f, x[i]), true);
    });
    return { x, settings };
  };
  const stopsAt = (x: readonly number[]): (Passed & { f: NumericFactor; value: number })[] =>
    factors.flatMap((f, i) => {
      const stop = passed(f, decode(f, x[i]));
      return stop ? [{ ...stop, f, value: snap(f, decode(f, x[i]), true) }] : [];
    });
  /** How far the steps from this one on would go, were nothing in their way but what is not stated. */
  const lookBeyond = (first: number): Beyond[] => {
    const out = new Map<string, Beyond>();
    let height = before;
    for (let step = first; step < first + STEPS_BEYOND; step++) {
      const { x, settings } = place(step);
      const stops = stopsAt(x);
      const now = sign * predictor.fitted(settings);
      if (stops.some((s) => s.hard) || !allowed(study, settings) || now < sign * height) break;
      height = predictor.fitted(settings);
      for (const s of stops)
        if (!s.hard)
          out.set(s.f.id, { factor: s.f.id, limit: s.limit, next: out.get(s.f.id)?.next ?? s.value, to: s.value });
    }
    return [...out.values()];
  };
  let beyond: Beyond[] = [];
  for (let step = 0; step < most && !reason; step++) {
    const { x, settings } = place(step);
    const stops = step === 0 ? [] : stopsAt(x);
    const wall = stops.find((s) => s.hard);
    if (wall) {
      reason = { code: "path-factor", values: { factor: wall.f.name } };
      break;
    }
    if (stops.length > 0) {
      reason = { code: "path-range", values: { factors: stops.map((s) => s.f.name) } };
      beyond = lookBeyond(step);
      break;
    }
    if (!allowed(study, settings) && step > 0) {
      reason = { code: "path-region", values: {} };
      break;
    }
    const { mean, meanInterval, trialInterval } = predictor.lots
      ? { ...predictor.expected(settings), trialInterval: null }
      : predictor.predict(settings);
    if (step > 1 && sign * (predictor.fitted(settings) - before) < 0) {
      reason = { code: "path-turns", values: {} };
      break;
    }
    before = predictor.fitted(settings);
    points.push({
      step,
      settings,
      coded: codedSettings(study.factors, settings),
      predicted: mean,
      meanInterval,
      trialInterval,
      inside: withinRanges(study.factors, settings) && allowed(study, settings),
    });
    if (target !== undefined && step > 0 && (up ? mean >= target : mean <= target))
      reason = { code: "path-target", values: {} };
  }
  const step = Math.abs(decode(leadFactor, origin[lead] + codedStep) - (from[leadFactor.id] as number));
  return {
    points,
    by: { factor: leadFactor.id, step },
    towards,
    beyond,
    reason: reason ?? { code: "path-goes-on", values: { points: most } },
  };
}
