/** What results say: a fitted model of a response with its effects, checks and rivals, and the surface it predicts. */

export { chiSquaredQuantile, normalQuantile } from "../numerics/distributions";
export { steepestAscent } from "../surface/ascent";
export { importanceOf } from "../surface/importance";
export { importancePercents, importanceShares, moveSeam, withImportanceShare } from "../surface/importance-shares";
export { stationaryPoint } from "../surface/stationary";
export { type AlternativeFit, alternativeFits } from "./alternative-fits";
export type { BlockEffect } from "./block-effects";
export { boxCox, powerOf, scaleLikelihoods } from "./box-cox";
export { cellSummary } from "./cells";
export { type Check, DRAWN_LINE, runChecks } from "./checklist";
export { type CopyCell, copiesOf } from "./copies";
export { besideCentre } from "./curvature";
export { type Fitting, fittingOf, storedModel } from "./data";
export { equationOf } from "./equation";
export { type Fit, fitModel, type Parameter } from "./fit";
export { type AnovaRow, type Link, type SetupModel, sizeUnit } from "./fitted";
export { type Flag, flagLines, flagsOf, type TrialFigures } from "./influence";
export type { Rung } from "./ladder";
export type { ContrastSet } from "./lenth";
export type { Offer } from "./offer";
export { effectOnResponseScale } from "./own-scale";
export { type Criterion, type Direction, reducedSteps, reduceModel, stepsOn } from "./reduce";
export { spreadCells } from "./spread";
export { type SubsetModel, searchSubsets } from "./subsets";
export type { Plane, Prediction, Surface } from "./surface";
export { handWorking, type WorkingEffect } from "./working";
