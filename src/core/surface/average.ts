import { averageOf, modelWeights, type Weighing } from "../model/average";
import { storedModel } from "../model/data";
import { type Fit, fitModel } from "../model/fit";
import { presentFit } from "../model/offer";
import { StudyError } from "../study/error";
import { Memo } from "../study/memo";
import type { Response, Study } from "../study/schema";
import { activeTerms } from "../terms/candidates";
import { type Predictor, predictor } from "./predict";

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
): Predictor {
  const model = averageOf(
    fits.map((f) => f.model),
    modelWeights(fits, weighing),
    chosen.model,
  );
  return predictor(study, chosen, memo, model);
}

/**
 * How a response is predicted by the model that is stored of it.
 * @throws StudyError `no-model`
 */
export function storedPredictor(study: Study, { id, name }: Response, memo = new Memo()): Predictor {
  if (!storedModel(study, id)) throw new StudyError("no-model.response", { responses: [name] }, ["models"]);
  return presentPredictor(study, id, memo);
}

/**
 * How a response is predicted as the study stands: by its stored model (else main effects), or by the average of its
 * kept rivals where the study says so.
 */
export function presentPredictor(
  study: Study,
  response: string,
  memo = new Memo(),
  fit = presentFit(study, response, memo),
): Predictor {
  const stored = storedModel(study, response);
  const rivals = stored?.rivals ?? [];
  if (!stored?.average || rivals.length < 2) return predictor(study, fit, memo);
  const fits = rivals.map((terms) =>
    fitModel(study, response, { terms: activeTerms(study, terms), ...fit.fitting }, memo),
  );
  return averagedPredictor(study, fits, stored.average, fit, memo);
}
