import { type Appraisal, type AppraisalOptions, appraise, appraisePoints } from "./appraisal/appraise";
import { type PowerAnswer, type PowerQuestion, reaches, solvePower } from "./appraisal/power";
import { pointModel, pointsOf } from "./appraisal/terms-info";
import { responseOf, storedModel } from "./model/data";
import { defaultTerms, fitModel } from "./model/fit";
import { type Criterion, type Direction, reduceModel } from "./model/reduce";
import { type FollowUp, followUp } from "./plans/follow-up/follow";
import type { FollowOptions } from "./plans/follow-up/options";
import { makePlan } from "./plans/make-plan";
import type { PlanOptions } from "./plans/options";
import type { Plan } from "./plans/plan";
import { missingFractions } from "./plans/words";
import { type FitReport, fitReport } from "./readings/fit-report";
import { storedPredictors } from "./setpoint/goals";
import { centreSettings } from "./study/coding";
import { StudyError } from "./study/error";
import type { Settings, Study, Term, Transform } from "./study/schema";
import { checkSettings } from "./study/validate";
import { type Path, steepestAscent } from "./surface/ascent";
import { presentPredictor } from "./surface/average";
import { type Importance, importanceOf } from "./surface/importance";
import type { Prediction } from "./surface/predict";
import { type Stationary, stationaryPoint } from "./surface/stationary";
import type { Hierarchy } from "./terms/candidates";
import { checkTerms } from "./terms/term";

/** The verbs of the contract as functions of a study: one body each for the headless command and for HTTP. */

export interface PlanAnswer extends Pick<Plan, "family" | "seed" | "recipe" | "trials" | "lost"> {
  /** For a fraction: the generators of the others of its family, which a later wave can run. */
  missingFractions?: string[];
  appraisal: Appraisal;
}

/** A plan with the appraisal of its own trials. */
export function planAnswer(study: Study, plan: Plan, appraisal: AppraisalOptions): PlanAnswer {
  const { family, seed, recipe, trials, lost } = plan;
  const points = { settings: trials.map((t) => t.settings), waves: trials.map((t) => t.wave) };
  const missing = recipe.generators ? missingFractions(recipe.generators) : [];
  return {
    family,
    seed,
    recipe,
    trials,
    lost,
    ...(missing.length > 0 ? { missingFractions: missing } : {}),
    appraisal: appraisePoints(study, points, appraisal),
  };
}

/** Makes a plan and appraises its own trials. */
export function planVerb(
  study: Study,
  options: PlanOptions,
  appraisal: AppraisalOptions,
): { answer: PlanAnswer; plan: Plan } {
  const plan = makePlan(study, options);
  return { plan, answer: planAnswer(study, plan, appraisal) };
}

/** Appraises all trials of a study. */
export const appraiseVerb = (study: Study, options: AppraisalOptions): Appraisal => appraise(study, options);

export interface FitQuestion {
  response: string;
  terms?: Term[];
  reduce?: Direction;
  by?: Criterion;
  alpha?: number;
  hierarchy?: Hierarchy;
  transform?: Transform;
  block?: boolean;
}

/** Fits a response, reducing on request; without terms the stored model, else main effects. */
export function fitVerb(study: Study, question: FitQuestion): FitReport {
  responseOf(study, question.response);
  const stored = storedModel(study, question.response);
  const terms = question.terms ? checkTerms(study, question.terms) : defaultTerms(study, question.response);
  const transform = question.transform ?? (question.terms ? "none" : (stored?.transform ?? "none"));
  const block = question.block ?? (question.terms ? true : (stored?.block ?? true));
  if (!question.reduce) return fitReport(study, fitModel(study, question.response, { terms, transform, block }));
  const { fit, steps } = reduceModel(study, question.response, terms, {
    direction: question.reduce,
    by: question.by ?? "p",
    alpha: question.alpha ?? 1 - study.confidence,
    hierarchy: question.hierarchy ?? "strong",
    transform,
    block,
  });
  return fitReport(study, fit, steps);
}

/** Predicts every response that has a stored model at one point. */
export function predictVerb(study: Study, at: Settings): { responses: Record<string, Prediction> } {
  const settings: Settings = {
    ...Object.fromEntries(study.factors.flatMap((f) => (f.retired === undefined ? [] : [[f.id, f.retired]]))),
    ...at,
  };
  checkSettings(study.factors, settings, ["at"]);
  const modelled = study.responses.filter((r) => storedModel(study, r.id));
  if (modelled.length === 0)
    throw new StudyError("no-model", "No response has a stored model yet; choose terms on Model first.", ["models"]);
  return {
    responses: Object.fromEntries([...storedPredictors(study, modelled)].map(([id, p]) => [id, p.predict(settings)])),
  };
}

export interface SurfaceQuestion {
  response: string;
  at?: Settings;
  step?: number;
}

export interface SurfaceAnswer {
  response: string;
  stationary: Stationary | null;
  ascent: Path["points"];
  /** The factor whose step was chosen, where the path leads and why it ends. */
  path: Omit<Path, "points">;
  importance: Importance[];
  readings: { kind: string; text: string; evidence: string }[];
}

/**
 * The shape of one response's stored model: where it is level, the path of steepest ascent from a point (the centre
 * unless said), and which factors carry its variation. Categories stand at the setpoint's level, else the first.
 */
export function surfaceVerb(study: Study, question: SurfaceQuestion): SurfaceAnswer {
  const about = responseOf(study, question.response);
  if (!storedModel(study, question.response))
    throw new StudyError("no-model", `There is no model yet for ${about.name}; choose its terms on Model.`, ["models"]);
  const read = presentPredictor(study, question.response);
  const levels = Object.fromEntries(
    study.factors.flatMap((f) =>
      f.kind === "categorical" && study.setpoint?.settings[f.id] !== undefined
        ? [[f.id, study.setpoint.settings[f.id]]]
        : [],
    ),
  );
  const retired = Object.fromEntries(
    study.factors.flatMap((f) => (f.retired === undefined ? [] : [[f.id, f.retired]])),
  );
  const at: Settings = { ...centreSettings(study.factors), ...levels, ...retired, ...question.at };
  checkSettings(study.factors, at, ["at"]);
  const { stationary, reason } = stationaryPoint(study, read, at);
  const { points, ...path } = steepestAscent(
    study,
    read,
    at,
    question.step === undefined ? {} : { step: question.step },
  );
  const readings: SurfaceAnswer["readings"] = [];
  if (!stationary && reason) readings.push({ kind: "finding", text: reason, evidence: "map" });
  if (points.length > 1 && points[1].inside)
    readings.push({
      kind: "caution",
      text: "The first step stays inside what these trials already cover; the map says as much as a path would.",
      evidence: "map",
    });
  return {
    response: question.response,
    stationary,
    ascent: points,
    path,
    importance: importanceOf(study, read),
    readings,
  };
}

/** Solves a power question on the trials of a study. */
export function powerVerb(study: Study, terms: Term[], question: PowerQuestion): PowerAnswer {
  const points = pointsOf(study);
  if (points.settings.length === 0)
    throw new StudyError("no-trials", "There are no trials to judge; plan some first.", ["trials"]);
  const model = pointModel(study, points, terms);
  return solvePower(reaches(study, model, terms), points.settings.length, model.rank.rank, question);
}

export interface FollowAnswer extends PlanAnswer {
  before: Appraisal;
  after: Appraisal;
  readings: { kind: string; text: string; evidence: string }[];
}

/** A next wave's options with what only models know filled in: the path of steepest ascent. */
export function completeFollow(study: Study, options: FollowOptions): FollowOptions {
  if (options.kind !== "ascent" || options.path) return options;
  const response =
    options.response ??
    study.responses.find((r) => r.goal.aim !== "watch" && storedModel(study, r.id))?.id ??
    study.models[0]?.response;
  if (response === undefined)
    throw new StudyError("no-model", "A path of steepest ascent needs a model; choose terms on Model first.", [
      "models",
    ]);
  const { ascent } = surfaceVerb(study, {
    response,
    ...(options.at ? { at: options.at } : {}),
    ...(options.step === undefined ? {} : { step: options.step }),
  });
  return { ...options, response, path: ascent.slice(1).map((p) => p.settings) };
}

/** Plans the wave that follows a study's trials and appraises all trials without and with it. */
export function followVerb(
  study: Study,
  options: FollowOptions,
  appraisal: AppraisalOptions,
): { answer: FollowAnswer; follow: FollowUp } {
  const follow = followUp(study, completeFollow(study, options));
  const { plan, cautions } = follow;
  const earlier = pointsOf(study);
  const own = { settings: plan.trials.map((t) => t.settings), waves: plan.trials.map((t) => t.wave) };
  return {
    follow,
    answer: {
      ...planAnswer(study, plan, appraisal),
      before: appraisePoints(study, earlier, appraisal),
      after: appraisePoints(
        study,
        { settings: [...earlier.settings, ...own.settings], waves: [...earlier.waves, ...own.waves] },
        appraisal,
      ),
      readings: cautions.map((text) => ({ kind: "caution", text, evidence: "plans" })),
    },
  };
}
