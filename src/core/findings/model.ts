import { type Check, runChecks } from "../model/checklist";
import type { Fit } from "../model/fit";
import type { Study } from "../study/schema";
import {
  alarms,
  bends,
  beyondBounds,
  countedReadings,
  fewDf,
  influential,
  madeOf,
  misfit,
  ofChoosing,
  orphans,
  setupReadings,
  unitReadings,
  untold,
} from "./model-doubts";
import { askedOut, chains, climbing, drivers, idle, waveReadings } from "./model-effects";
import { toldOf } from "./model-told";
import { type Reading, ranked } from "./reading";

const OF_CHOOSING = new Set(["asked-out", "of-noise", "too-small"]);

/** What a model is warned of by how it was chosen: said wherever it is accepted, used or reported. */
export const warningsOfChoosing = (readings: readonly Reading[]): Reading[] =>
  readings.filter((r) => OF_CHOOSING.has(r.code));

/**
 * Readings on the Model station for one response.
 *
 * @param checks the checks of the fit, where they were answered already
 */
export function modelReadings(study: Study, fit: Fit, checks: readonly Check[] = runChecks(study, fit)): Reading[] {
  const told = toldOf(study, fit);
  const { name, unit, rungs, standing, active } = told;
  const missing = untold(told);
  // A model that lacks a term is not told to give others up.
  const misses = misfit(told, checks).filter(
    (r) => r.code !== "overfit" || !missing.some((m) => m.code === "left-out"),
  );
  return ranked([
    ...fewDf(told),
    ...askedOut(told),
    ...ofChoosing(told),
    ...drivers(study, fit, rungs, unit, name),
    ...chains(study, active),
    ...missing,
    ...bends(study, fit, standing, checks, unit),
    ...misses,
    ...countedReadings(study, fit),
    ...setupReadings(study, fit, unit),
    ...unitReadings(told),
    ...waveReadings(told),
    ...madeOf(told),
    ...climbing(study, fit),
    ...influential(study, fit, checks, fit.response, unit),
    ...alarms(checks),
    ...orphans(told),
    ...beyondBounds(told),
    ...idle(told),
  ]);
}
