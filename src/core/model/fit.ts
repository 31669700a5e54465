import { kindLaw } from "../kinds/laws";
import { kindOf } from "../kinds/results";
import type { Message } from "../messages/message";
import type { RemarkValues } from "../messages/remarks";
import { tTwoSided } from "../numerics/distributions";
import { StudyError } from "../study/error";
import { Memo } from "../study/memo";
import type { Response, Study, Term, Transform } from "../study/schema";
import { termSet } from "../terms/candidates";
import { alphabetOf, inModelOrder, ofFactors, termKey, termShape } from "../terms/term";
import { type Curvature, centreOf, curvatureColumn } from "./curvature";
import { type Fitting, fittingOf, modelData, responseOf } from "./data";
import { columnLabel, type Design, type DroppedColumn, designOf } from "./design";
import { type AnovaRow, type FittedModel, FULL_LEVERAGE, LEAST_FREE, type ModelSummary } from "./fitted";
import { type TrialFigures, trialFigures } from "./influence";
import type { LargestModel, Law } from "./laws/law";
import type { ModelData } from "./model-data";
import { type ResidualSplit, splitResidual } from "./residual-split";
import { onScale, scaleOf } from "./transform";

export interface FitOptions {
  terms: Term[];
  transform?: Transform;
  /** Waves as blocks; default true, no effect with one wave. */
  block?: boolean;
  /** A column of the centre; default true, no effect but where corners and centre alone were run. */
  curvature?: boolean;
  /** Variance between set-ups over that within, where set-ups are too few to tell it; as planned unless said. */
  eta?: number;
  /** How errors fall; the response's own law unless said. */
  law?: Law;
}

/** One coefficient, per coded unit on the fitted scale, with how sure it is. */
export interface Parameter {
  /** None for the constant. */
  term: Term;
  /** Of a category, the level whose effect it is. */
  level?: string;
  coefficient: number;
  /** Change from low to high (2 × coefficient) of one-column terms without squares. */
  effect?: number;
  standardError: number | null;
  /** Of its t; null for large samples, 0 without error to judge by. */
  df: number | null;
  t: number | null;
  p: number | null;
  interval: [number, number] | null;
  vif: number | null;
}

/** A fitted model of one response: figures for people, and the model that predictions and further figures come from. */
export interface Fit extends ResidualSplit {
  response: string;
  law: string;
  n: number;
  transform: Transform;
  /** How it was fitted, scale, waves and curvature. */
  fitting: Fitting;
  /** 1 at centre trials where one column stands for all squares, whether it is in the model or out of it. */
  centre?: number[];
  /** The test of that column, where it is in. */
  curvature?: Curvature;
  confidence: number;
  terms: Term[];
  dropped: DroppedColumn[];
  parameters: Parameter[];
  anova: AnovaRow[];
  summary: ModelSummary;
  trials: TrialFigures[];
  /** Figures that it does not have, each with the reason. */
  absent: Message<RemarkValues>[];
  data: ModelData;
  model: FittedModel;
}

/**
 * Results of a response on the scale it is fitted on.
 * @throws StudyError `no-results`, `too-few-results`, `counted-none`, `counted-all`, `constant-response`,
 * `constant-within-setups`
 */
function observedOf(about: Response, data: ModelData, transform: Transform, law: Law): number[] {
  const n = data.y.length;
  if (n === 0) throw new StudyError("no-results.response", { response: about.name }, ["trials"]);
  if (n === 1) throw new StudyError("too-few-results", { response: about.name }, ["trials"]);
  kindLaw(about).check?.(about, data);
  if (data.y.every((v) => v === data.y[0]))
    throw new StudyError("constant-response", { response: about.name, value: data.y[0] }, ["responses", about.id]);
  const observed = law.observe?.(data);
  // By a law that knows set-ups nothing is told where trials of one do not differ.
  const setups = law.singly ? undefined : data.setups;
  if (setups && setupsAlike(setups, observed ?? data.y))
    throw new StudyError("constant-within-setups", { response: about.name, setups: new Set(setups).size }, [
      "responses",
      about.id,
    ]);
  return (
    observed ??
    onScale(
      transform,
      data.y,
      data.trials.map((t) => t.id),
    )
  );
}

/** Whether a response is one value in all trials of every set-up. */
function setupsAlike(setups: readonly string[], y: readonly number[]): boolean {
  const first = new Map<string, number>();
  return setups.every((s, i) => {
    const known = first.get(s);
    if (known === undefined) first.set(s, y[i]);
    return known === undefined || known === y[i];
  });
}

/** Coefficients with their standard errors, t, p and intervals, in model order. */
function parametersOf(model: FittedModel, confidence: number): Parameter[] {
  const { columns, covariance, vif } = model;
  const p = columns.length;
  const widths = new Map<string, number>();
  for (const c of columns) widths.set(c.key, (widths.get(c.key) ?? 0) + 1);
  const unit = new Float64Array(p);
  const { likelihood } = model;
  return columns.map((c, j): Parameter => {
    const coefficient = (likelihood?.penalised ?? model.coefficients)[j];
    const standardError = covariance === null ? null : Math.sqrt(covariance.data[j * p + j]);
    unit.fill(0);
    unit[j] = 1;
    const df = model.dfOf(unit);
    // Of counts the test is that of the deviance, and the interval its profile: the two never contradict each other.
    const test = likelihood && standardError !== null ? model.test([j]) : undefined;
    const t = test
      ? test.f === null
        ? null
        : Math.sign(coefficient) * Math.sqrt(test.f)
      : !model.exact && df !== 0 && standardError !== null && standardError > 0
        ? coefficient / standardError
        : null;
    const shape = termShape(c.term);
    const oneColumn = (shape === "main" || shape === "interaction") && widths.get(c.key) === 1 && ofFactors(c.term);
    const half = standardError === null || df === 0 ? null : model.critical(confidence, df) * standardError;
    return {
      ...columnLabel(c),
      coefficient,
      ...(oneColumn ? { effect: 2 * coefficient } : {}),
      standardError,
      df,
      t,
      p: test ? test.p : t === null ? null : tTwoSided(t, df),
      interval: half === null ? null : (likelihood?.profile(j, confidence) ?? [coefficient - half, coefficient + half]),
      vif: vif[j],
    };
  });
}

/** Rows of the analysis of variance with what the residual is made of. */
function withSplit(rows: AnovaRow[], split: ResidualSplit): AnovaRow[] {
  const residualRow = rows.findIndex((r) => r.source === "residual");
  const out = rows.slice(0, residualRow);
  out.push(rows[residualRow]);
  if (split.lackOfFit) {
    const l = split.lackOfFit;
    const row = (
      source: AnovaRow["source"],
      df: number,
      ss: number | null,
      f: number | null,
      p: number | null,
    ): AnovaRow => ({
      source,
      df,
      ss,
      sequentialSs: null,
      ms: df > 0 && ss !== null ? ss / df : null,
      f,
      p,
    });
    const own = row("lack-of-fit", l.df, l.ss, l.f, l.p);
    // In two strata there is no sum of squares that pure error has.
    if (l.pureErrorSs === null) out.push({ ...own, dfDenominator: l.pureErrorDf });
    else out.push(own, row("pure-error", l.pureErrorDf, l.pureErrorSs, null, null));
  }
  return [...out, ...rows.slice(residualRow + 1)];
}

/** Figures that a model does not have, each with the reason. */
function absentFrom(model: FittedModel): Fit["absent"] {
  const absent: Fit["absent"] = [];
  const { residualDf, aicc } = model.summary;
  const { likelihood } = model;
  const n = model.trials.length;
  const p = model.columns.length;
  if (residualDf === 0 && !likelihood?.counting) absent.push({ code: "no-standard-errors", values: {} });
  else if (model.exact) absent.push({ code: "no-p-values", values: {} });
  else if (likelihood && !likelihood.counting && residualDf < LEAST_FREE)
    absent.push({ code: "no-f-free", values: { df: residualDf } });
  const full = model.trials.find((_, i) => model.leverages[i] > FULL_LEVERAGE);
  if (full !== undefined) absent.push({ code: "no-predicted-r2", values: { trial: full } });
  if (model.exact) absent.push({ code: "no-criteria", values: {} });
  else if (aicc === null) absent.push({ code: "no-aicc", values: { coefficients: p, results: n } });
  return absent;
}

/**
 * Fits one response by the law of its errors. Which columns can be estimated is judged on planned settings, the fit
 * uses what was really set; columns lost either way are reported as combinations of those kept.
 *
 * @param memo where fits, results gathered and cells found stand between fits of the same trials
 * @throws StudyError `unknown-id`, `no-results`, `too-few-results`, `constant-response`, `bad-transform`
 */
export function fitModel(study: Study, response: string, options: FitOptions, memo: Memo = new Memo()): Fit {
  const about = responseOf(study, response);
  const terms = inModelOrder(alphabetOf(study), options.terms);
  // The logarithm of a standard deviation is what has an even spread of its own.
  const fitting = fittingOf(undefined, about.spread ? { ...options, transform: "log" } : options);
  const { rescaled, percent } = kindOf(about);
  if (!rescaled && fitting.transform !== "none")
    throw new StudyError("counted-transform", { response: about.name, share: percent }, ["transform"]);
  const { law } = options;
  const grounds = groundsOf(study, about);
  const asked = JSON.stringify([terms, fitting]);
  // What the response's own law finds is plain data that another thread can be handed.
  const find: Find = law ? (make) => make() : (make) => memo.get(FOUND, [...grounds, asked], make);
  return memo.get("fit", [...grounds, law, asked], () => fitAnew(study, about, terms, fitting, law, memo, find));
}

/** What every fit of a response rests on, beside its terms and how it is fitted. */
const groundsOf = ({ trials, factors, covariates, waves, region, confidence }: Study, about: Response): unknown[] => [
  trials,
  factors,
  covariates,
  waves,
  region,
  confidence,
  about,
];

const FOUND = "found";

/** What the search of a law found, and what was decided for it beforehand. */
interface Found {
  judged: LargestModel | undefined;
  found: unknown;
}
type Find = (make: () => Found) => Found;

/** What was found for one fit, as one thread hands it to another: plain data. */
export interface FoundFit extends Found {
  response: string;
  /** Terms and fitting, as one text. */
  asked: string;
}

/** What stands found for fits of a study as it is. */
export function foundFits(study: Study, memo: Memo): FoundFit[] {
  return study.responses.flatMap((about) =>
    memo
      .beginning<Found>(FOUND, groundsOf(study, about))
      .map(({ rest: [asked], value }) => ({ response: about.id, asked: asked as string, ...value })),
  );
}

/** Takes over what was found elsewhere for fits of the same study: they are not searched for again. */
export function takeFoundFits(study: Study, found: readonly FoundFit[], memo: Memo): void {
  for (const { response, asked, ...one } of found)
    memo.get(FOUND, [...groundsOf(study, responseOf(study, response)), asked], () => one);
}

/** A fitted model with what it was fitted to. */
interface Modelled {
  model: FittedModel;
  design: Design;
  data: ModelData;
  /** 1 at centre trials, where one column may stand for all squares. */
  centre: number[] | undefined;
}

/** Chooses columns and fits them by the law of a response. */
function modelAnew(
  study: Study,
  about: Response,
  terms: readonly Term[],
  fitting: Fitting,
  own: Law | undefined,
  memo: Memo,
  find: Find = (make) => make(),
): Modelled {
  const { transform, block } = fitting;
  const data = modelData(study, about.id, terms, memo);
  const law = own ?? kindLaw(about).lawOf(data);
  const observed = observedOf(about, data, transform, law);
  const centre = centreOf(study, data, memo);
  const asked = curvatureColumn(terms, centre);
  const design = designOf(study, data, terms, block, fitting.curvature ? asked : undefined);
  const link = law.link ?? scaleOf(transform);
  const input = {
    design,
    observed,
    link,
    unit: link.identity ? about.unit : undefined,
    eta: fitting.eta ?? data.plannedRatio,
  };
  const { judged, found } = find(() => {
    const judged = law.judge && judgedOf(study, about, fitting, law, design, memo);
    return { judged, found: law.solve({ ...input, judged }) };
  });
  return { model: law.model({ ...input, judged }, found), design, data, centre: asked && centre };
}

/**
 * A model by itself, without the tables that a person reads: for those who look at many.
 * @throws StudyError as `fitModel`
 */
export function modelOf(study: Study, response: string, options: FitOptions, memo: Memo): FittedModel {
  const about = responseOf(study, response);
  const fitting = fittingOf(undefined, about.spread ? { ...options, transform: "log" } : options);
  const terms = inModelOrder(alphabetOf(study), options.terms);
  return modelAnew(study, about, terms, fitting, options.law, memo).model;
}

function fitAnew(
  study: Study,
  about: Response,
  terms: readonly Term[],
  fitting: Fitting,
  law: Law | undefined,
  memo: Memo,
  find: Find,
): Fit {
  const response = about.id;
  const { transform } = fitting;
  const { model, design, data, centre } = modelAnew(study, about, terms, fitting, law, memo, find);
  // Values that weigh differently have no common pure error to split off.
  const split = data.weights ? {} : splitResidual(study, data, model, memo);
  const kept = new Set(model.columns.slice(1).map((c) => c.key));
  const anova = model.anova();
  const bend = anova.find((r) => r.source === "curvature");
  return {
    response,
    law: model.law,
    n: data.trials.length,
    transform,
    fitting,
    ...(centre ? { centre } : {}),
    ...(bend ? { curvature: { df: bend.df, ss: bend.ss ?? 0, f: bend.f, p: bend.p } } : {}),
    confidence: study.confidence,
    terms: terms.filter((t) => kept.has(termKey(t))),
    dropped: design.dropped,
    parameters: parametersOf(model, study.confidence),
    anova: withSplit(anova, split),
    summary: model.summary,
    trials: trialFigures(model),
    absent: absentFrom(model),
    ...split,
    data,
    model,
  };
}

/**
 * What a law decides once for a response: on the largest model of second order that its trials can tell with three
 * degrees of freedom left; on the model itself where it is none of those, or larger.
 */
function judgedOf(
  study: Study,
  about: Response,
  fitting: Fitting,
  law: Law,
  present: Design,
  memo: Memo,
): LargestModel | undefined {
  const { block } = fitting;
  const data = modelData(study, about.id, [], memo);
  const judged = memo.get("judged", [data, study.factors, study.waves, law, block], () => {
    for (const set of ["quadratic", "main+2fi", "main"] as const) {
      const largest = designOf(study, data, termSet(study, set), block);
      if (data.y.length - largest.columns.length >= LEAST_LEFT) return law.judge?.(study, largest);
    }
    return undefined;
  });
  return judged ?? law.judge?.(study, present);
}

/** Residual degrees of freedom that the largest model leaves, where one is asked for. */
const LEAST_LEFT = 3;
