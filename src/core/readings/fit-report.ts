import { type Check, runChecks } from "../model/checks";
import { type Equation, equationOf } from "../model/equation";
import type { Fit } from "../model/fit";
import { type Lenth, saturatedContrasts } from "../model/lenth";
import type { ReduceStep } from "../model/reduce";
import type { Study } from "../study/schema";
import { modelReadings } from "./model";

type FitFigures = Omit<Fit, "data" | "model" | "absent" | "block" | "confidence">;

/** A fit with everything that is said of it, as plain data: the answer of the headless command and of HTTP. */
export interface FitReport extends FitFigures {
  lenth?: Lenth;
  checks: Pick<Check, "id" | "answer" | "statistic" | "p">[];
  equation: Equation;
  steps?: ReduceStep[];
  readings: { kind: string; text: string; evidence: string }[];
}

/** Gathers a fit's figures, checks, equation and readings; absent figures are null and a reading says why. */
export function fitReport(study: Study, fit: Fit, steps?: ReduceStep[]): FitReport {
  const { data, model, absent, block: _block, confidence: _confidence, ...figures } = fit;
  const { lenth } = saturatedContrasts(study, data, model.observed);
  return {
    ...figures,
    ...(lenth ? { lenth } : {}),
    checks: runChecks(study, fit).map(({ id, answer, statistic, p }) => ({ id, answer, statistic, p })),
    equation: equationOf(study, fit),
    ...(steps ? { steps } : {}),
    readings: [
      ...absent.map((a) => ({ kind: "caution", text: `No ${a.figure}: ${a.reason}`, evidence: "table" })),
      ...modelReadings(study, fit).map(({ kind, text, evidence }) => ({ kind, text, evidence })),
    ],
  };
}
