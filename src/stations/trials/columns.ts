import {
  type Covariate,
  type Factor,
  isNumeric,
  kindOf,
  measuredResponses,
  type Response,
  type Result,
  resultValue,
  type Study,
  type Trial,
} from "@/core/study";
import { settingText } from "@/ui/parts/format";
import { decimalText, resultText } from "./actions";

/** A column of the ledger. */
export type Column =
  | { kind: "setting"; id: string; factor: Factor; width: number }
  | { kind: "result"; id: string; response: Response; width: number }
  | { kind: "covariate"; id: string; covariate: Covariate; width: number }
  | { kind: "note"; id: "note"; width: number };

/** Wide enough for the longest word of the heading, which may take two lines, and for a number. */
const numberWidth = (name: string): number =>
  Math.max(62, Math.min(104, Math.max(...name.split(/\s+/).map((w) => w.length)) * 7.4 + 18));

/** Widest column of numbers. */
const WIDEST_NUMBER = 130;
const widestSetting = (study: Study, factor: string): number =>
  study.trials.reduce((most, t) => {
    const asRun = t.asRun?.[factor];
    const small = asRun === undefined ? 0 : settingText(t.settings[factor]).length * 5.6;
    return Math.max(most, settingText(asRun ?? t.settings[factor]).length * 8.2 + small + 18);
  }, 0);

/** Widest column of a category; a longer name ends in dots, and stands whole where one points at it. */
const WIDEST_LEVEL = 180;

/**
 * Where to scroll to so that at least so much lies beyond the left edge, and no column is cut there: a figure that has
 * lost its first digits reads as another one.
 * @param columns those that scroll, in their order
 */
export function wholeFrom(columns: readonly { width: number }[], least: number): number {
  let edge = 0;
  for (const { width } of columns) {
    if (edge >= least) break;
    edge += width;
  }
  return edge;
}

/** All columns of a study, each as wide as what it holds. */
export function columnsOf(study: Study): Column[] {
  return [
    ...study.factors.map(
      (factor): Column => ({
        kind: "setting",
        id: factor.id,
        factor,
        width: Math.max(
          numberWidth(factor.name),
          factor.kind === "categorical"
            ? Math.min(WIDEST_LEVEL, Math.max(...factor.levels.map((l) => l.length)) * 7.2 + 18)
            : // A value that was worked out shows whole, with the planned one above where it was set otherwise.
              Math.min(WIDEST_NUMBER, widestSetting(study, factor.id)),
        ),
      }),
    ),
    ...study.covariates.map(
      (covariate): Column => ({ kind: "covariate", id: covariate.id, covariate, width: numberWidth(covariate.name) }),
    ),
    ...measuredResponses(study).map(
      (response): Column => ({
        kind: "result",
        id: response.id,
        response,
        width: Math.max(
          numberWidth(response.name),
          // The longest result shows whole.
          Math.min(
            210,
            study.trials.reduce((m, t) => Math.max(m, resultShown(t.results[response.id], response).length), 0) * 8.2 +
              20,
          ),
        ),
      }),
    ),
    { kind: "note", id: "note", width: 140 },
  ];
}

/** What stands above it. */
export const nameOf = (c: Column): string =>
  c.kind === "setting"
    ? c.factor.name
    : c.kind === "result"
      ? c.response.name
      : c.kind === "covariate"
        ? c.covariate.name
        : "note";

/** Its heading: a factor with its letter. */
export const headOf = (c: Column): string =>
  c.kind === "setting" ? `${c.factor.letter} ${c.factor.name}` : c.kind === "note" ? "Note" : nameOf(c);

export const unitOf = (c: Column): string | undefined =>
  c.kind === "setting"
    ? c.factor.unit
    : c.kind === "result"
      ? kindOf(c.response).heading(c.response)
      : c.kind === "covariate"
        ? c.covariate.unit
        : undefined;

/** Whether its cells are figures, which stand to the right. */
export const isFigure = (c: Column): boolean =>
  c.kind === "result" || c.kind === "covariate" || (c.kind === "setting" && isNumeric(c.factor));

/** Where a cell is kept. */
export function pathOf(trial: Trial, c: Column): string[] {
  if (c.kind === "note") return ["trials", trial.id, "note"];
  return ["trials", trial.id, { setting: "asRun", result: "results", covariate: "covariates" }[c.kind], c.id];
}

/** Most values of one trial that are shown one by one. */
const MOST_SHOWN = 6;
/** Characters from which a value is shown rounded: nobody typed it, a program worked it out. */
const LONG = 8;
/** Figures that are then shown where no decimals are given; what it holds besides is seen on pointing at it. */
const FIGURES = 6;

/** A value as it is shown: as it was typed, a long one to the response's decimals or to a few figures. */
function shortly(v: number, decimals: number | undefined): string {
  if (String(v).length < LONG) return decimalText(v, decimals);
  return decimals === undefined ? String(Number(v.toPrecision(FIGURES))) : v.toFixed(decimals);
}

/** Decimals that a number was written with; none in powers of ten. */
const decimalsOf = (v: number): number => /^-?\d+\.(\d+)$/.exec(String(v))?.[1].length ?? 0;

/** What is shown of a result: many values by their number and mean. */
export function resultShown(r: Result | undefined, response: Response): string {
  const { decimals, several } = response;
  if (!kindOf(response).several) return resultText(r, response);
  if (typeof r === "number") return shortly(r, decimals);
  if (!Array.isArray(r)) return "";
  if (r.length <= MOST_SHOWN) return r.map((v) => (v === null ? "–" : shortly(v, decimals))).join(" ");
  const measured = r.filter((v) => v !== null).length;
  // A mean of several is known a little better than each, so that all cells of a column say as much.
  const finest = decimals ?? Math.min(FIGURES, 1 + Math.max(...r.map((v) => (v === null ? 0 : decimalsOf(v)))));
  const mean = resultValue(r, response) ?? Number.NaN;
  const what = several === "units" ? "units" : "values";
  return `${measured.toLocaleString("en")} ${what}, mean ${mean.toFixed(finest)}`;
}

/** What is shown of a cell. */
export const cellShown = (trial: Trial, c: Column): string =>
  c.kind === "result" ? resultShown(trial.results[c.id], c.response) : cellText(trial, c);

/** What stands in a cell. */
export const cellText = (trial: Trial, c: Column): string =>
  c.kind === "result"
    ? resultText(trial.results[c.id], c.response)
    : c.kind === "note"
      ? trial.note
      : c.kind === "covariate"
        ? settingText(trial.covariates?.[c.id] ?? "")
        : settingText(trial.asRun?.[c.id] ?? trial.settings[c.id]);
