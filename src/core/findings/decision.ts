import type { Prediction } from "../model/surface";
import { type NextLot, nextLot } from "../setpoint/counted";
import { limitsOf } from "../setpoint/desirability";
import type { SetpointProblem } from "../setpoint/goals";
import { centreSettings } from "../study/coding";
import { activeFactors } from "../study/roles";
import type { Response, Settings } from "../study/schema";
import { sensitivity } from "./setpoint";

/** What is to be expected of one response. */
export interface Expected {
  response: Response;
  said: Prediction;
  /** Whether the mean keeps the limits of the goal. */
  meets: boolean;
}

/** Events of a lot of one size in the middle of the ranges, and at the setpoint. */
export interface LotBeside {
  response: Response;
  of: number;
  middle: number;
  here: NextLot;
}

/** What somebody who decides must know of a setpoint. */
export interface Decision {
  expected: Expected[];
  lots: LotBeside[];
  /** Factors that cost most where they are off, worst first, and by how much they may be off for that. */
  hold: { factor: string; off: number; loss: number }[];
}

/** Overall desirability that a factor off by its tolerance must cost to be worth a word. */
const WORTH = 0.01;
const MOST_HELD = 3;

/** What a setpoint brings, what of it is counted in a lot, and what must be held tight for it. */
export function decisionOf(problem: SetpointProblem, settings: Settings): Decision {
  const { study, responses, predictors } = problem;
  const middle = { ...settings, ...centreSettings(activeFactors(study)) };
  const read = responses.flatMap((response) => {
    const predictor = predictors.get(response.id);
    return predictor ? [{ response, predictor }] : [];
  });
  return {
    expected: read.map(({ response, predictor }) => {
      const said = predictor.predict(settings);
      const { low, high } = limitsOf(response.goal);
      return { response, said, meets: said.mean >= low && said.mean <= high };
    }),
    lots: read.flatMap(({ response, predictor }) => {
      const here = nextLot(study, response, predictor, settings);
      const before = nextLot(study, response, predictor, middle);
      return here && before ? [{ response, of: here.of, middle: before.events, here }] : [];
    }),
    hold: sensitivity(problem, settings)
      .filter((l) => l.loss >= WORTH)
      .slice(0, MOST_HELD),
  };
}
