import { type Check, runChecks } from "../model/checklist";
import type { Fit } from "../model/fit";
import { Memo } from "../study/memo";
import type { Study } from "../study/schema";
import { modelContext } from "./model-context";
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
  pieceReadings,
  setupReadings,
  untold,
} from "./model-doubts";
import { askedOut, chains, climbing, drivers, idle, waveReadings } from "./model-effects";
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
export function modelReadings(
  study: Study,
  fit: Fit,
  memo = new Memo(),
  checks: readonly Check[] = runChecks(study, fit, memo),
): Reading[] {
  const context = modelContext(study, fit, memo);
  const { unit, standing, active } = context;
  const missing = untold(context);
  // A model that lacks a term is not told to give others up.
  const misses = misfit(context, checks).filter(
    (r) => r.code !== "overfit" || !missing.some((m) => m.code === "left-out"),
  );
  return ranked([
    ...fewDf(context),
    ...askedOut(context),
    ...ofChoosing(context),
    ...drivers(context),
    ...chains(study, active),
    ...missing,
    ...bends(study, fit, standing, checks, unit),
    ...misses,
    ...countedReadings(study, fit),
    ...setupReadings(context),
    ...pieceReadings(context),
    ...waveReadings(context),
    ...madeOf(context),
    ...climbing(context),
    ...influential(context, checks),
    ...alarms(checks),
    ...orphans(context),
    ...beyondBounds(context),
    ...idle(context),
  ]);
}
