import { kindLot, lotSize } from "../kinds/lots";
import type { CountedResult } from "../kinds/result";
import type { Surface, SurfaceLots } from "../model/surface";
import { scrambledHalton } from "../numerics/low-discrepancy";
import { seededRandom } from "../numerics/random";
import { toleranceOf, wobblingFactors } from "../study/roles";
import type { Response, Settings, Study } from "../study/schema";
import { limitsOf } from "./desirability";
import { shiftsAhead } from "./shift";

/** Places within the tolerances that a lot's chance is averaged over. */
const PLACES = 64;

/** Settings that vary evenly within ± tolerance; the settings themselves where nothing does. */
function placesAbout(study: Study, settings: Settings): Settings[] {
  const wobbling = wobblingFactors(study);
  if (wobbling.length === 0) return [settings];
  return scrambledHalton(PLACES, wobbling.length, seededRandom(1)).map((u) => ({
    ...settings,
    ...Object.fromEntries(wobbling.map((f, j) => [f.id, (settings[f.id] as number) + (2 * u[j] - 1) * toleranceOf(f)])),
  }));
}

/** What a next lot of a counted response is expected to bring. */
export interface NextLot {
  response: string;
  /** Pieces or exposure. */
  of: number;
  /** Share or rate expected, and the events that makes. */
  mean: number;
  events: number;
  /** Where the expected events lie, and where those of one lot lie. */
  expected: [number, number] | null;
  lot: [number, number] | null;
  /** Chance that the lot keeps the limits, ends included; null where nothing is known of the scatter, or no limit. */
  chance: number | null;
}

/**
 * A next lot at some settings: its share of events is that of the beta-binomial, its count that of the negative
 * binomial, mixed over what is not known of the model and over settings within their tolerances; over how far a new
 * wave may lie as well, where waves differ.
 *
 * @param wave one of those that the model sets apart, as in which the lot is made
 * @returns undefined where the response is not counted
 */
export function nextLot(
  study: Study,
  response: Response,
  read: Surface,
  settings: Settings,
  wave?: string,
): NextLot | undefined {
  const { lots } = read;
  if (!lots) return undefined;
  const of = lotSize(response, lots.usual);
  const { low, high } = limitsOf(response.goal);
  const limited = Number.isFinite(low) || Number.isFinite(high);
  const places = placesAbout(study, settings);
  const shifts = wave === undefined ? shiftsAhead(study, read) : [];
  // Each place with a shift of its own, or the one place with all of them.
  const made = Array.from({ length: Math.max(places.length, shifts.length) }, (_, i) => ({
    at: places[i % places.length],
    off: shifts.length > 0 ? shifts[i % shifts.length] : 0,
  }));
  let chance: number | null = limited ? 0 : null;
  let mean = 0;
  for (const place of places) mean += read.value(place) / places.length;
  for (const { at, off } of made) {
    const inside = lots.at(at, wave)([of], off)?.within(low, high);
    chance = inside === undefined || chance === null ? null : chance + inside / made.length;
  }
  const said = read.predict(settings, of);
  const events = (ends: [number, number] | null): [number, number] | null => ends && [ends[0] * of, ends[1] * of];
  return {
    response: response.id,
    of,
    mean,
    events: mean * of,
    expected: events(said.meanInterval),
    lot: events(said.trialInterval),
    chance: chance === null ? null : Math.min(1, chance),
  };
}

/** What was counted in a confirmation. */
export interface CountedFigures {
  events: number;
  of: number;
  /** Where the share or rate behind it lies. */
  interval: [number, number];
}

/** Events of some trials together, with the interval of the share or rate behind them. */
export function countedFigures(
  results: readonly CountedResult[],
  about: Pick<Response, "measured">,
  lots: Pick<SurfaceLots, "together">,
  confidence: number,
): CountedFigures {
  const kind = kindLot(about);
  if (!kind) throw new Error(`no lot is counted of a ${about.measured}`);
  const sizes = results.map((r) => r.of);
  const events = results.reduce((t, r) => t + r.events, 0);
  const of = sizes.reduce((t, v) => t + v, 0);
  return { events, of, interval: kind.interval(events, of, lots.together(sizes), confidence) };
}
