import { fQuantile, tTwoSided } from "../numerics/distributions";
import type { Study } from "../study/schema";
import { boxCox, powerOf } from "./box-cox";
import {
  andersonDarling,
  type Check,
  type CheckId,
  copiesOf,
  durbinWatson,
  errorsOf,
  koenker,
  missingSquares,
  slopeOnOrder,
  spreadByFactor,
} from "./checks";
import type { Fit } from "./fit";
import { scaleOf } from "./transform";

/** Largest over smallest result below which powers hardly differ (Box, Hunter & Hunter 2005, chapter 8). */
const SPAN = 3;

const three = (v: number): string => String(Number(v.toPrecision(3)));
/** "p 0.021", "p below 0.001". */
export const pText = (p: number): string => (p < 0.001 ? "p below 0.001" : `p ${p.toFixed(p < 0.1 ? 3 : 2)}`);

/** A fit as every question looks at it. */
interface Looked {
  study: Study;
  fit: Fit;
  alpha: number;
  /** Enough trials are left over to tell anything of the errors. */
  enough: boolean;
  residuals: number[];
  fitted: number[];
  residualDf: number;
}

const unknown = (id: CheckId, question: string, statisticName: string): Check => ({
  id,
  question,
  answer: "Not enough trials to tell.",
  concern: false,
  statistic: null,
  statisticName,
  p: null,
});

/** Whether the errors look bell-shaped. */
function bellCheck({ fit, alpha, enough, residuals }: Looked): Check {
  const question = "Do the errors look bell-shaped?";
  if (!enough) return unknown("bell", question, "Anderson–Darling A²");
  const { statistic, p } = andersonDarling(residuals);
  return {
    id: "bell",
    question,
    answer:
      p < alpha
        ? `No: they depart from a bell shape (${pText(p)}).`
        : `Yes, as far as ${fit.n} trials can tell (${pText(p)}).`,
    concern: p < alpha,
    statistic,
    statisticName: "Anderson–Darling A²",
    p,
  };
}

/** Whether their size changes with the predicted value. */
function spreadCheck({ alpha, enough, residuals, fitted }: Looked): Check {
  const question = "Is the spread the same everywhere?";
  const spread = enough ? koenker(residuals, fitted) : null;
  if (!spread) return unknown("spread", question, "Koenker n·R²");
  return {
    id: "spread",
    question,
    answer:
      spread.p < alpha
        ? `No: it changes with the predicted value (${pText(spread.p)}).`
        : `Yes: no trend with the predicted value (${pText(spread.p)}).`,
    concern: spread.p < alpha,
    statistic: spread.statistic,
    statisticName: "Koenker n·R²",
    p: spread.p,
  };
}

/** Whether it depends on a factor. */
function spreadFactorCheck({ study, fit, alpha, enough }: Looked): Check {
  const byFactor = enough ? spreadByFactor(study, fit) : [];
  const question = "Does the spread depend on a factor?";
  if (byFactor.length === 0) return unknown("spread-factor", question, "Brown–Forsythe p");
  const [worst] = byFactor;
  const p = Math.min(1, worst.p * byFactor.length);
  const name = study.factors.find((f) => f.id === worst.factor)?.name ?? worst.factor;
  const sides = [...worst.groups].sort((a, b) => b.s - a.s);
  return {
    id: "spread-factor",
    question,
    answer:
      p < alpha
        ? `Yes: with ${name} ${sides[0].label} errors are ${three(sides[0].s / sides[sides.length - 1].s)} times as wide as with ${name} ${sides[sides.length - 1].label} (${pText(p)}).`
        : `No: the strongest sign is ${name} (${pText(p)} among ${byFactor.length}).`,
    concern: p < alpha,
    statistic: sides[sides.length - 1].s > 0 ? sides[0].s / sides[sides.length - 1].s : null,
    statisticName: "ratio of standard deviations",
    p,
    about: worst.factor,
  };
}

/** Whether something drifted while the trials ran. */
function orderCheck({ fit, alpha, enough, residuals }: Looked): Check {
  const question = "Did anything drift while the trials ran?";
  if (!enough) return unknown("order", question, "Durbin–Watson");
  const dw = durbinWatson(residuals, fit.data.waves);
  const slope = slopeOnOrder(fit);
  const drifting = slope !== null && slope.p < alpha;
  const chained = dw.p < alpha;
  const answer = drifting
    ? `Yes: the error moves by ${three(slope.slope)} a trial (${pText(slope.p)}).`
    : chained
      ? `Perhaps: errors next to each other are ${dw.statistic < 2 ? "alike" : "opposed"} (${pText(dw.p)}).`
      : `No: neighbours are not alike (${pText(dw.p)})${slope ? ` and there is no slope (${pText(slope.p)})` : ""}.`;
  return {
    id: "order",
    question,
    answer,
    concern: drifting || chained,
    statistic: dw.statistic,
    statisticName: "Durbin–Watson",
    p: dw.p,
  };
}

/** Whether one trial rules the fit. */
function singleCheck({ study, fit, alpha, enough, residualDf }: Looked): Check {
  const question = "Does one trial rule the fit?";
  const deleted = fit.trials.filter((t) => t.deleted !== null);
  if (!enough || deleted.length === 0) return unknown("single", question, "largest deleted residual");
  const far = deleted.reduce((a, b) => (Math.abs(b.deleted as number) > Math.abs(a.deleted as number) ? b : a));
  const p = Math.min(1, fit.n * tTwoSided(far.deleted as number, residualDf - 1));
  const columns = fit.parameters.length;
  const heavy = fit.trials.reduce((a, b) => ((b.cooks ?? 0) > (a.cooks ?? 0) ? b : a));
  const cut = Math.min(1, fQuantile(0.5, columns, residualDf));
  const rules = (heavy.cooks ?? 0) > cut;
  const orderOf = (id: string): number | undefined => study.trials.find((t) => t.id === id)?.order;
  // Its own error is all the error there is: without it the model passes through every other result.
  const all = fit.trials.find(
    (t) => t.studentized !== null && t.deleted === null && t.studentized ** 2 >= residualDf * (1 - 1e-9),
  );
  const answer = all
    ? `Trial ${orderOf(all.id)} carries all of the error: without it the model passes through every other result.`
    : p < alpha
      ? `Trial ${orderOf(far.id)} stands apart: its error is ${Math.abs(far.deleted as number).toFixed(1)} standard errors (${pText(p)} for the largest of ${fit.n}).`
      : rules
        ? `Trial ${orderOf(heavy.id)} pulls the fit hard (Cook's distance ${(heavy.cooks as number).toFixed(2)}).`
        : `No: the largest error is ${Math.abs(far.deleted as number).toFixed(1)} standard errors, the largest Cook's distance ${(heavy.cooks ?? 0).toFixed(2)}.`;
  return {
    id: "single",
    question,
    answer,
    concern: all !== undefined || p < alpha || rules,
    statistic: far.deleted,
    statisticName: "largest deleted residual",
    p,
  };
}

/** Whether a square is missing. */
function bendCheck({ study, fit, alpha, enough }: Looked): Check {
  const question = "Is a bend missing?";
  const curved = fit.curvature;
  if (curved && curved.p !== null) {
    const found = curved.p < alpha;
    return {
      id: "bend",
      question,
      answer: found
        ? `Yes: the centre does not lie where straight lines put it (${pText(curved.p)}).`
        : `No sign of it: the centre lies where straight lines put it (${pText(curved.p)}).`,
      concern: found,
      statistic: curved.f,
      statisticName: "curvature F",
      p: curved.p,
    };
  }
  const tested = enough ? missingSquares(study, fit) : [];
  if (tested.length === 0)
    return {
      ...unknown("bend", question, "added-variable t"),
      answer: enough
        ? "Not to be told from these trials beyond the squares already in the model."
        : "Not enough trials to tell.",
    };
  const strongest = tested.reduce((a, b) => (b.p < a.p ? b : a));
  const p = Math.min(1, strongest.p * tested.length);
  const name = strongest.together.map((id) => study.factors.find((f) => f.id === id)?.name ?? id).join(" or ");
  return {
    id: "bend",
    question,
    answer:
      p < alpha
        ? `Yes: ${name} bends (${pText(p)}).`
        : `No: the strongest sign is ${name} (${pText(p)} among ${tested.length}).`,
    concern: p < alpha,
    statistic: strongest.coefficient,
    statisticName: "coefficient of the square",
    p,
  };
}

/** Whether another scale would fit better; not asked of a spread, which is always fitted as a logarithm. */
function scaleCheck({ study, fit }: Looked): Check | undefined {
  const question = "Would another scale fit better?";
  if (study.responses.find((r) => r.id === fit.response)?.spread) return undefined;
  const profile = boxCox(fit);
  const present = powerOf(fit.transform);
  if (!profile)
    return {
      ...unknown("scale", question, "Box–Cox power"),
      answer: fit.data.y.some((v) => !(v > 0))
        ? "Powers need results above 0; these hold others."
        : "Not enough trials to tell.",
    };
  const [low, high] = profile.interval.map((v) => (Math.abs(v) < 0.05 ? "0" : v.toFixed(1).replace("-", "−")));
  const fine = present !== undefined && present >= profile.interval[0] && present <= profile.interval[1];
  const advised = scaleOf(profile.advice).name;
  const { y } = fit.data;
  const ratio = Math.max(...y) / Math.min(...y);
  return {
    id: "scale",
    question,
    answer: fine
      ? `No need: powers from ${low} to ${high} fit alike, and the present one is among them.`
      : ratio < SPAN
        ? `Hardly: powers from ${low} to ${high} fit a little better, but over results within a factor of ${three(ratio)} scales differ little.`
        : `Yes: powers from ${low} to ${high} fit best; the ${advised === "none" ? "response's own" : advised} scale is one.`,
    concern: !fine && present !== undefined && ratio >= SPAN,
    statistic: profile.best,
    statisticName: "best power",
    p: null,
  };
}

/** Whether copies, or repeats, scatter alike. */
function copiesCheck({ study, fit, alpha }: Looked): Check | undefined {
  const copies = copiesOf(study, fit);
  if (!copies) return undefined;
  const { worst, p } = copies;
  const orders = worst.orders.length > 1 ? `trials ${worst.orders.join(", ")}` : `trial ${worst.orders[0]}`;
  return {
    id: "copies",
    question:
      copies.from === "repeats" ? "Do repeats scatter alike in every trial?" : "Do copies of a trial scatter alike?",
    answer:
      p < alpha
        ? `No: ${orders} scatters more than the rest (s ${three(worst.s)} against ${three(copies.pooled)}, ${pText(p)} for the widest of ${copies.cells.length}).`
        : `Yes: the widest is ${orders} (s ${three(worst.s)} against ${three(copies.pooled)} in all, ${pText(p)} for the widest of ${copies.cells.length}).`,
    concern: p < alpha,
    statistic: worst.s / copies.pooled,
    statisticName: "s over pooled s",
    p,
  };
}

/** Whether waves differ. */
function wavesCheck({ fit, alpha }: Looked): Check | undefined {
  const waveRow = fit.anova.find((r) => r.source === "wave");
  if (!waveRow) return undefined;
  const p = waveRow.p;
  return {
    id: "waves",
    question: "Did waves differ?",
    answer:
      p === null
        ? "Not enough trials to tell."
        : p < alpha
          ? `Yes: the shift between waves is clear of noise (${pText(p)}).`
          : `Not clearly (${pText(p)}).`,
    concern: false,
    statistic: waveRow.f,
    statisticName: "wave F",
    p,
  };
}

/** In the order they are asked. */
const QUESTIONS = [
  bellCheck,
  spreadCheck,
  spreadFactorCheck,
  orderCheck,
  singleCheck,
  bendCheck,
  scaleCheck,
  copiesCheck,
  wavesCheck,
] as const;

/**
 * The questions a careful person asks of a model, each answered with its figure. Too little to tell is said as such.
 */
export function runChecks(study: Study, fit: Fit): Check[] {
  const { residualDf } = fit.summary;
  const looked: Looked = {
    study,
    fit,
    alpha: 1 - study.confidence,
    enough: residualDf >= 3 && !fit.model.exact && fit.n >= 8,
    residuals: errorsOf(fit),
    fitted: fit.trials.map((t) => t.predicted),
    residualDf,
  };
  return QUESTIONS.flatMap((question) => question(looked) ?? []);
}
