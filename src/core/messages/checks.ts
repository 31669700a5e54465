import type { Message } from "./message";

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
interface Chance {
  p: number;
  adjusted: number;
}

/** Answers of the checks of a model, by code. */
export interface CheckValues {
  "too-few": object;
  "bell-fine": { n: number } & Chance;
  "bell-perhaps": Chance;
  "bell-off": Chance;
  "spread-fine": Chance;
  "spread-perhaps": Chance;
  "spread-off": Chance;
  "spread-factor-fine": { factor: string; among: number; ratio: number } & Chance;
  "spread-factor-perhaps": { factor: string; wide: string; narrow: string; ratio: number } & Chance;
  "spread-factor-off": { factor: string; wide: string; narrow: string; ratio: number } & Chance;
  "order-fine": { hidden: number; unit: string } & Chance;
  "order-perhaps": { slope: number; unit: string } & Chance;
  "order-off": { slope: number; unit: string } & Chance;
  "neighbours-fine": Chance;
  "neighbours-perhaps": { alike: boolean } & Chance;
  "neighbours-off": { alike: boolean } & Chance;
  /** `hidden`: the error of one trial that would show, none where none would. */
  "single-fine": { largest: number; hidden: number | null; unit: string } & Chance;
  /** Past the drawn line, whatever the joint test says. */
  "single-perhaps": { trials: { order: number; size: number }[] } & Chance;
  "single-off": { order: number; size: number; n: number } & Chance;
  "single-all": { order: number };
  /** A set-up of the hard factors: its wave and number, its common error over that of all. */
  "setup-fine": { size: number; among: number } & Chance;
  "setup-perhaps": { wave: string; setup: number; size: number; among: number } & Chance;
  "setup-off": { wave: string; setup: number; size: number; among: number } & Chance;
  "pull-fine": { distance: number; hidden: { order: number; size: number } | null; unit: string } & Chance;
  "pull-perhaps": { order: number; distance: number } & Chance;
  "pull-off": { order: number; distance: number } & Chance;
  "bend-centre-fine": { hidden: number; unit: string; p: number };
  /** By itself below 0.05, among all checks of the model not. */
  "bend-centre-perhaps": { size: number; unit: string } & Chance;
  "bend-centre-off": { size: number; unit: string; p: number };
  "misfit-fine": MisfitValues;
  "misfit-perhaps": MisfitValues;
  "misfit-off": MisfitValues;
  "bend-or-shift": { p: number | null };
  "bend-fine": { factors: string[]; hidden: number; unit: string; among: number } & Chance;
  /** `squareP`: of the square by itself, added last. */
  "bend-perhaps": { factors: string[]; size: number; unit: string; squareP: number } & Chance;
  "bend-off": { factors: string[]; size: number; unit: string; squareP: number } & Chance;
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
interface MisfitValues extends Chance {
  f: number;
  df: number;
  pureErrorDf: number;
}

interface CopiesValues extends Chance {
  orders: number[];
  s: number;
  pooled: number;
  among: number;
  /** What waves stand off is taken out of them. */
  overWaves: boolean;
}

/** What must be said of a p that is not exact, or not of the errors of the model in force. */
export type CheckNote = "chosen" | "pooled" | "waves-out";

export type AnsweredCheck = Message<CheckValues> & {
  /** Its p is not exact. */
  approximate: boolean;
  /** Which errors it is of, where not those of the model in force. */
  look?: Exclude<CheckNote, "chosen"> | undefined;
};
