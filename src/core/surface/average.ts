import { averageOf, modelWeights, type Weighing } from "../model/average";
import { storedModel } from "../model/data";
import { type Fit, fitModel } from "../model/fit";
import { presentFit } from "../model/offer";
import type { Study } from "../study/schema";
import { type Predictor, predictor } from "./predict";

/**
 * The average of several models of one response as one predictor.
 *
 * @param chosen the model whose terms the station shows
 */
export function averagedPredictor(study: Study, fits: readonly Fit[], weighing: Weighing, chosen: Fit): Predictor {
  const model = averageOf(
    fits.map((f) => f.model),
    modelWeights(fits, weighing),
    chosen.model,
  );
  return predictor(study, chosen, model);
}

/**
 * How a response is predicted as the study stands: by its stored model (else main effects), or by the average of its
 * kept rivals where the study says so.
 */
export function presentPredictor(study: Study, response: string, fit = presentFit(study, response)): Predictor {
  const stored = storedModel(study, response);
  const rivals = stored?.rivals ?? [];
  if (!stored?.average || rivals.length < 2) return predictor(study, fit);
  const retired = new Set(study.factors.filter((f) => f.retired !== undefined).map((f) => f.id));
  const fits = rivals.map((terms) =>
    fitModel(study, response, {
      terms: terms.filter((t) => !t.some((id) => retired.has(id))),
      ...fit.fitting,
    }),
  );
  return averagedPredictor(study, fits, stored.average, fit);
}
