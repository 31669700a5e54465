import type { Said } from "./said";

/** What the checks of a model answer, before it is a sentence. */

/** The checks of a model, in the order they are asked. */
export type CheckId =
  | "bell"
  | "spread"
  | "spread-factor"
  | "order"
  | "neighbours"
  | "single"
  | "setup"
  | "pull"
  | "bend"
  | "misfit"
  | "scale"
  | "copies"
  | "repeats"
  | "counting"
  | "waves";

/** A p by itself and among all checks of a model. */
interface Judged {
  p: number;
  adjusted: number;
}

/** Answers of the checks of a model, by code. */
export interface CheckValues {
  "too-few": object;
  "bell-fine": { n: number } & Judged;
  "bell-perhaps": Judged;
  "bell-off": Judged;
  "spread-fine": Judged;
  "spread-perhaps": Judged;
  "spread-off": Judged;
  "spread-factor-fine": { factor: string; among: number; ratio: number } & Judged;
  "spread-factor-perhaps": { factor: string; wide: string; narrow: string; ratio: number } & Judged;
  "spread-factor-off": { factor: string; wide: string; narrow: string; ratio: number } & Judged;
  "order-fine": { hidden: number; unit: string } & Judged;
  "order-perhaps": { slope: number; unit: string } & Judged;
  "order-off": { slope: number; unit: string } & Judged;
  "neighbours-fine": Judged;
  "neighbours-perhaps": { alike: boolean } & Judged;
  "neighbours-off": { alike: boolean } & Judged;
  /** `hidden`: the error of one trial that would show, none where none would. */
  "single-fine": { largest: number; hidden: number | null; unit: string } & Judged;
  /** Past the drawn line, whatever the joint test says. */
  "single-perhaps": { trials: { order: number; size: number }[] } & Judged;
  "single-off": { order: number; size: number; n: number } & Judged;
  "single-all": { order: number };
  /** A set-up of the hard factors: its wave and number, its common error over that of all. */
  "setup-fine": { size: number; among: number } & Judged;
  "setup-perhaps": { wave: string; setup: number; size: number; among: number } & Judged;
  "setup-off": { wave: string; setup: number; size: number; among: number } & Judged;
  "pull-fine": { distance: number; hidden: { order: number; size: number } | null; unit: string } & Judged;
  "pull-perhaps": { order: number; distance: number } & Judged;
  "pull-off": { order: number; distance: number } & Judged;
  "bend-centre-fine": { hidden: number; unit: string; p: number };
  /** By itself below 0.05, among all checks of the model not. */
  "bend-centre-perhaps": { size: number; unit: string } & Judged;
  "bend-centre-off": { size: number; unit: string; p: number };
  "misfit-fine": MisfitValues;
  "misfit-perhaps": MisfitValues;
  "misfit-off": MisfitValues;
  "bend-or-shift": { p: number | null };
  "bend-fine": { factors: string[]; hidden: number; unit: string; among: number } & Judged;
  /** `squareP`: of the square by itself, added last. */
  "bend-perhaps": { factors: string[]; size: number; unit: string; squareP: number } & Judged;
  "bend-off": { factors: string[]; size: number; unit: string; squareP: number } & Judged;
  /** No place between low and high was run. */
  "bend-untold": object;
  /** The squares that these trials can tell are in the model. */
  "bend-carried": object;
  "scale-fine": { low: number; high: number };
  "scale-hardly": { low: number; high: number; ratio: number };
  "scale-other": { low: number; high: number; scale: string };
  "scale-below-zero": object;
  "copies-fine": CopiesValues;
  "copies-perhaps": CopiesValues;
  "copies-off": CopiesValues;
  /** `times`: scatter over that of counting; `carried`: it is in intervals and tests. */
  "counting-fine": { times: number; p: number; carried: boolean };
  "counting-more": { times: number; p: number; carried: boolean };
  "counting-less": { times: number; p: number; carried: boolean };
  "waves-differ": {
    above: string;
    below: string;
    size: number;
    interval: [number, number] | null;
    unit: string;
    p: number;
  };
  /** `out`: all of the interval is small beside the smallest change worth finding. */
  "waves-alike": {
    p: number;
    above: string;
    below: string;
    interval: [number, number] | null;
    unit: string;
    out: boolean;
  };
}

/** Lack of fit, by its exact F. */
interface MisfitValues extends Judged {
  f: number;
  df: number;
  pureErrorDf: number;
}

interface CopiesValues extends Judged {
  orders: number[];
  s: number;
  pooled: number;
  among: number;
  /** What waves stand off is taken out of them. */
  overWaves: boolean;
}

/** What must be said of a p that is not exact, or not of the errors of the model in force. */
export type CheckNote = "chosen" | "pooled" | "waves-out";

export type AnsweredCheck = Said<CheckValues> & {
  /** Its p is not exact. */
  approximate: boolean;
  /** Which errors it is of, where not those of the model in force. */
  look?: Exclude<CheckNote, "chosen"> | undefined;
};
