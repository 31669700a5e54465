import { storedModel } from "../model/data";
import { jointValues } from "../model/joint-values";
import type { Surface } from "../model/surface";
import { StudyError } from "../study/error";
import { Memo } from "../study/memo";
import { type Region, regionOf } from "../study/region";
import type { Response, Settings, Study } from "../study/schema";
import { presentPredictor } from "../surface/average";
import { desirability, shortfall } from "./desirability";

/** The responses with goals and how to predict them: what every setpoint question starts from. */
export interface SetpointProblem {
  study: Study;
  /** Where what is derived of the study stands. */
  memo: Memo;
  region: Region;
  responses: Response[];
  predictors: Map<string, Surface>;
  /** Predicted values of the responses, in their order; the same array is filled at each call. */
  values(settings: Settings): Float64Array;
  /** Overall desirability at settings. */
  overall(settings: Settings): number;
  /** D where it is above 0, else minus the total shortfall, so that a search always has a way up. */
  score(settings: Settings): number;
}

/** How a response is predicted, by its identifier. */
export type PredictorOf = (response: string) => Surface;

/**
 * The stored models of the responses named; says which are missing.
 * @throws StudyError `no-model`
 */
export function storedPredictors(
  study: Study,
  responses: readonly Response[],
  memo = new Memo(),
  predictorOf: PredictorOf = (id) => presentPredictor(study, id, memo),
): Map<string, Surface> {
  const missing = responses.filter((r) => !storedModel(study, r.id));
  if (missing.length > 0)
    throw new StudyError("no-model.response", { responses: missing.map((r) => r.name) }, ["models"]);
  return new Map(responses.map((r) => [r.id, predictorOf(r.id)]));
}

/**
 * Gathers goals and models.
 *
 * @param predictorOf fits that stand already, where there are any
 * @throws StudyError when no response has a goal or one with a goal has no model
 */
export function setpointProblem(study: Study, memo = new Memo(), predictorOf?: PredictorOf): SetpointProblem {
  const responses = study.responses.filter((r) => r.goal.aim !== "watch");
  if (responses.length === 0) throw new StudyError("no-goals", {}, ["responses"]);
  const predictors = storedPredictors(study, responses, memo, predictorOf);
  // Asked for hundreds of thousands of times in a search: all responses are read off one row of columns.
  const values = jointValues(
    study,
    responses.map((r) => predictors.get(r.id)).filter((p): p is Surface => p !== undefined),
  );
  const weights = responses.reduce((t, r) => t + r.importance, 0);
  return {
    study,
    memo,
    region: regionOf(study),
    responses,
    predictors,
    values,
    overall(settings) {
      const y = values(settings);
      let total = 0;
      for (let i = 0; i < responses.length; i++) {
        const d = desirability(responses[i].goal, y[i]) ?? 1;
        if (!(d > 0)) return 0;
        total += responses[i].importance * Math.log(d);
      }
      return Math.exp(total / weights);
    },
    score(settings) {
      const y = values(settings);
      let total = 0;
      let short = 0;
      let dead = false;
      for (let i = 0; i < responses.length; i++) {
        const { goal, importance } = responses[i];
        const d = desirability(goal, y[i]) ?? 1;
        if (d > 0) total += importance * Math.log(d);
        else {
          dead = true;
          short += importance * (shortfall(goal, y[i]) + 1e-9);
        }
      }
      return dead ? -short / weights : Math.exp(total / weights);
    },
  };
}
