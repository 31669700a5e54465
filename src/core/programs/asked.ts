import { codedSettings, isNumeric } from "../study/coding";
import type { Settings, Study, Trial } from "../study/schema";

/** A factor as a program is told of it. */
export interface AskedFactor {
  id: string;
  letter: string;
  name: string;
  unit?: string;
}

/** One trial as a program or a rig is asked to run it. */
export interface Asked {
  trial: string;
  order: number;
  settings: Settings;
  /** −1 … 1 between low and high; the level's name of a category. */
  coded: Settings;
  factors: AskedFactor[];
}

/** A trial as a program is asked to run it: what to set, in natural and in coded units, and what the ids stand for. */
export const askedOf = (study: Study, trial: Trial): Asked => ({
  trial: trial.id,
  order: trial.order,
  settings: trial.settings,
  coded: codedSettings(study.factors, trial.settings),
  factors: study.factors.map((f) => ({
    id: f.id,
    letter: f.letter,
    name: f.name,
    ...(isNumeric(f) && f.unit ? { unit: f.unit } : {}),
  })),
});
