import { averageOf, modelWeights, type Weighing } from "../model/average";
import { averagedOver } from "../model/averaged-over";
import { storedModel } from "../model/data";
import { type Fit, fitModel } from "../model/fit";
import { type LinearSurface, linearSurface } from "../model/linear-surface";
import { presentFit } from "../model/offer";
import type { Surface } from "../model/surface";
import { StudyError } from "../study/error";
import { Memo } from "../study/memo";
import { averagedFactors } from "../study/roles";
import type { Response, Study } from "../study/schema";
import { activeTerms } from "../terms/candidates";

/**
 * The average of several models of one response as one predictor.
 *
 * @param chosen the model whose terms the station shows
 */
export function averagedPredictor(
  study: Study,
  fits: readonly Fit[],
  weighing: Weighing,
  chosen: Fit,
  memo = new Memo(),
): LinearSurface {
  const model = averageOf(
    fits.map((f) => f.model),
    modelWeights(fits, weighing),
    chosen.model,
  );
  return linearSurface(study, chosen, memo, model);
}

/**
 * How a response is predicted by the model that is stored of it.
 * @throws StudyError `no-model`
 */
export function storedPredictor(study: Study, { id, name }: Response, memo = new Memo()): Surface {
  if (!storedModel(study, id)) throw new StudyError("no-model.response", { responses: [name] }, ["models"]);
  return presentPredictor(study, id, memo);
}

/** What a surface says once trials are run: what factors do that nobody chooses is averaged over. */
export function afterTrials(study: Study, linear: LinearSurface, memo: Memo): Surface {
  const averaged = averagedFactors(study);
  return averaged.length === 0 ? linear : averagedOver(study, linear, averaged, memo);
}

/** How a response is predicted as the study stands. */
export const presentPredictor = (study: Study, response: string, memo = new Memo(), fit?: Fit): Surface =>
  afterTrials(study, presentLinear(study, response, memo, fit), memo);

/**
 * The surface of a response's stored model (else main effects), or of the average of its kept rivals where the study
 * says so.
 */
export function presentLinear(
  study: Study,
  response: string,
  memo = new Memo(),
  fit = presentFit(study, response, memo),
): LinearSurface {
  const stored = storedModel(study, response);
  const rivals = stored?.rivals ?? [];
  if (!stored?.average || rivals.length < 2) return linearSurface(study, fit, memo);
  const fits = rivals.map((terms) =>
    fitModel(study, response, { terms: activeTerms(study, terms), ...fit.fitting }, memo),
  );
  return averagedPredictor(study, fits, stored.average, fit, memo);
}
