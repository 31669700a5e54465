import { EMPIRICAL } from "../model/laws/empirical";
import type { CountedData, ModelData } from "../model/model-data";
import { median } from "../numerics/sums";
import { StudyError } from "../study/error";
import type { Response, Result, Trial } from "../study/schema";
import { kindOf } from "./results";

/** What was counted in each trial; all of them have results. */
export function gatheredEvents(
  kind: CountedData["kind"],
  about: Response,
  trials: readonly Trial[],
): { counted: CountedData } {
  const all = trials.flatMap((t) => kindOf(about).events(t.results[about.id], about) ?? []);
  const of = all.map((c) => c.of);
  return {
    counted: {
      kind,
      events: all.map((c) => c.events),
      of,
      usual: about.of ?? median(of),
      scatter: about.scatter ?? "free",
    },
  };
}

/** Where factors are hard to change: a trial's events on the empirical scale; null where nothing was counted. */
export function empiricalResult(kind: CountedData["kind"], result: Result | undefined, about: Response): number | null {
  const counted = kindOf(about).events(result, about);
  return counted && EMPIRICAL[kind](counted.events, counted.of);
}

/**
 * Whether anything was counted at all.
 * @throws StudyError `counted-none`
 */
export function checkCounted(about: Response, { counted }: ModelData): void {
  if (counted?.events.every((k) => k === 0))
    throw new StudyError("counted-none", { response: about.name }, ["responses", about.id]);
}
