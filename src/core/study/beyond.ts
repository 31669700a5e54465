import { StudyError } from "./error";
import type { Study } from "./schema";

/** A factor that something would take past low or high, with no hard limit stated there. */
export interface Beyond {
  factor: string;
  /** The limit that is not stated. */
  limit: "hardLow" | "hardHigh";
  /** Where the next step would set it, in natural units, and where the farthest of some steps more would. */
  next: number;
  to: number;
}

/** Why nothing is planned past the ranges of some factors, and what to state so that it can be. */
export const leavesRanges = (study: Study, open: readonly Beyond[]): StudyError =>
  new StudyError(
    "no-path.range",
    {
      factors: open.map(({ factor, next, to }) => {
        const f = study.factors.find((x) => x.id === factor);
        return { name: f?.name ?? factor, unit: f?.unit ?? "", next, to };
      }),
    },
    ["factors"],
  );
