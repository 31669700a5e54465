import type { AnsweredCheck, CheckId, CheckNote, CheckValues } from "../../messages/checks";
import type { Words } from "../../messages/message";
import { answeredIn } from "../language";
import { counted, figure, fixed, listed, pText, withUnit } from "../numbers";
import { alone, either, judged, unitText } from "./parts";

const orders = (of: readonly number[]): string =>
  of.length > 1 ? `trials ${listed(of.map(String))}` : `trial ${of[0]}`;
const between = ([low, high]: readonly [number, number], unit: string): string =>
  `${figure(low)} to ${withUnit(figure(high), unit)}`;
const powers = (low: number, high: number): string => {
  const one = (v: number): string => fixed(Math.abs(v) < 0.05 ? 0 : v, Math.abs(v) < 0.05 ? 0 : 1);
  return `powers from ${one(low)} to ${one(high)}`;
};
const misfit = (v: { f: number; df: number; pureErrorDf: number }): string =>
  `F ${figure(v.f, 3)} on ${v.df} and ${figure(v.pureErrorDf, 3)} df`;
const wider = (v: { factor: string; wide: string; narrow: string; ratio: number }): string =>
  `with ${v.factor} ${v.wide} errors are ${figure(v.ratio)} times as wide as with ${v.factor} ${v.narrow}`;

export const checks: Words<CheckValues> = {
  "too-few": () => "Not enough trials to tell.",
  "bell-fine": (v) => `Yes, as far as ${counted(v.n, "trial")} can tell (${pText(v.p)}).`,
  "bell-perhaps": (v) => `Perhaps not quite (${alone(v)}).`,
  "bell-off": (v) => `No: they depart from a bell shape (${judged(v)}).`,
  "spread-fine": (v) => `Yes: no trend with the predicted value (${pText(v.p)}).`,
  "spread-perhaps": (v) => `Perhaps not: it may change with the predicted value (${alone(v)}).`,
  "spread-off": (v) => `No: it changes with the predicted value (${judged(v)}).`,
  "spread-factor-fine": (v) =>
    `No: the strongest sign is ${v.factor} (${pText(v.p)} for the strongest of ${v.among}). Errors ${figure(v.ratio)} times as wide at one end would show (80 %).`,
  "spread-factor-perhaps": (v) => `Perhaps: ${wider(v)} (${alone(v)}).`,
  "spread-factor-off": (v) => `Yes: ${wider(v)} (${judged(v)}).`,
  "order-fine": (v) =>
    `No slope is seen (${pText(v.p)}); a drift of ${withUnit(figure(v.hidden), unitText(v.unit))} from first to last would show (80 %).`,
  "order-perhaps": (v) =>
    `Perhaps: the error moves by ${withUnit(figure(v.slope), unitText(v.unit))} a trial (${alone(v)}).`,
  "order-off": (v) => `Yes: the error moves by ${withUnit(figure(v.slope), unitText(v.unit))} a trial (${judged(v)}).`,
  "neighbours-fine": (v) => `Yes: errors next to each other are neither alike nor opposed (${pText(v.p)}).`,
  "neighbours-perhaps": (v) =>
    `Perhaps not: errors next to each other are rather ${v.alike ? "alike" : "opposed"} (${alone(v)}).`,
  "neighbours-off": (v) => `No: errors next to each other are ${v.alike ? "alike" : "opposed"} (${judged(v)}).`,
  "single-fine": (v) =>
    `No: the largest error is ${fixed(v.largest, 1)} standard errors (${pText(v.p)}). ${v.hidden === null ? "So few degrees of freedom would show no error of one trial, however large" : `An error of ${withUnit(figure(v.hidden), unitText(v.unit))} in one trial would show (80 %)`}.`,
  "single-perhaps": (v) =>
    `Perhaps ${listed(v.trials.map((t) => `trial ${t.order} (${fixed(t.size, 1)})`))}: past the line, though the largest of so many may be (${alone(v)}).`,
  "single-off": (v) =>
    `Yes, trial ${v.order}: its error is ${fixed(v.size, 1)} standard errors (${pText(v.p)} for the largest of ${v.n}; ${v.adjusted.toFixed(2)} among all checks).`,
  "single-all": (v) =>
    `Trial ${v.order} carries all of the error: without it the model passes through every other result.`,
  "setup-fine": (v) =>
    `No: the farthest of ${counted(v.among, "set-up")} lies ${fixed(v.size, 1)} times as far off as set-ups do on average (${pText(v.p)}).`,
  "setup-perhaps": (v) =>
    `Perhaps set-up ${v.setup} of ${v.wave}: its trials lie off together, ${fixed(v.size, 1)} times as far as set-ups do on average (${alone(v)}).`,
  "setup-off": (v) =>
    `Yes, set-up ${v.setup} of ${v.wave}: its trials lie off together, ${fixed(v.size, 1)} times as far as set-ups do on average (${judged(v)}).`,
  "pull-fine": (v) =>
    `No: the largest Cook's distance is ${figure(v.distance)} (${pText(v.p)}). ${v.hidden === null ? "So few degrees of freedom would show no such trial" : `An error of ${withUnit(figure(v.hidden.size), unitText(v.unit))} in trial ${v.hidden.order} would show first (80 %)`}.`,
  "pull-perhaps": (v) => `Perhaps trial ${v.order}: Cook's distance ${figure(v.distance)} (${alone(v)}).`,
  "pull-off": (v) => `Yes, trial ${v.order}: Cook's distance ${figure(v.distance)} (${judged(v)}).`,
  "bend-centre-fine": (v) =>
    `These trials would show the centre ${withUnit(figure(v.hidden), unitText(v.unit))} off the plane of the corners (80 %); it is not seen to be (${pText(v.p)}).`,
  "bend-centre-off": (v) =>
    `A bend is there: the centre lies ${withUnit(figure(Math.abs(v.size)), unitText(v.unit))} ${v.size < 0 ? "below" : "above"} the plane of the corners (${pText(v.p)}). It is in the model, but not told to a factor.`,
  "bend-centre-perhaps": (v) =>
    `Perhaps: the centre lies ${withUnit(figure(Math.abs(v.size)), unitText(v.unit))} ${v.size < 0 ? "below" : "above"} the plane of the corners (${alone(v)}).`,
  "misfit-fine": (v) => `Not that one could see: lack of fit ${misfit(v)} (${pText(v.p)}).`,
  "misfit-perhaps": (v) => `Perhaps: lack of fit ${misfit(v)} (${alone(v)}).`,
  "misfit-off": (v) => `Yes: lack of fit ${misfit(v)} (${judged(v)}). A term is missing, or a scale would help.`,
  "bend-or-shift": (v) =>
    `Bend or shift${v.p === null ? "" : ` (together ${pText(v.p)})`}: the centre ran in a wave of its own, so one cannot be told from the other.`,
  "bend-fine": (v) =>
    `These trials would show a bend of ${either(v.factors)} above ${withUnit(figure(v.hidden), unitText(v.unit))} (80 %); none is seen (${pText(v.p)}${v.among > 1 ? ` for the strongest of ${v.among}` : ""}).`,
  "bend-perhaps": (v) =>
    `Perhaps: ${either(v.factors)} may bend by ${withUnit(figure(v.size), unitText(v.unit))} (${alone(v)}).`,
  "bend-off": (v) => `Yes: ${either(v.factors)} bends by ${withUnit(figure(v.size), unitText(v.unit))} (${judged(v)}).`,
  "bend-untold": () => "Not to be told: nothing was run between low and high.",
  "bend-carried": () => "Not to be told from these trials beyond the squares already in the model.",
  "scale-fine": (v) => `No need: ${powers(v.low, v.high)} fit alike, and the present one is among them.`,
  "scale-hardly": (v) =>
    `Hardly: ${powers(v.low, v.high)} fit a little better, but over results within a factor of ${figure(v.ratio)} scales differ little.`,
  "scale-other": (v) =>
    `Yes: ${powers(v.low, v.high)} fit best; the ${v.scale === "none" ? "response's own" : v.scale} scale is one.`,
  "scale-below-zero": () => "Powers need results above 0; these hold others.",
  "copies-fine": (v) =>
    `Yes: the widest is ${orders(v.orders)} (s ${figure(v.s, 3)} against ${figure(v.pooled, 3)} in all, ${v.overWaves ? "what waves stand off taken out, " : ""}${pText(v.p)} for the widest of ${v.among}).`,
  "copies-perhaps": (v) =>
    `Perhaps not: ${orders(v.orders)} ${v.orders.length > 1 ? "scatter" : "scatters"} more than the rest (s ${figure(v.s, 3)} against ${figure(v.pooled, 3)} in all, ${alone(v)}).`,
  "copies-off": (v) =>
    `No: ${orders(v.orders)} ${v.orders.length > 1 ? "scatter" : "scatters"} more than the rest (s ${figure(v.s, 3)} against ${figure(v.pooled, 3)} in all, ${judged(v)}).`,
  "counting-fine": (v) =>
    `No: it is ${figure(v.times)} times what counting gives, which counting alone may be (${pText(v.p)}).`,
  "counting-more": (v) =>
    v.carried
      ? `Yes: ${figure(v.times)} times what counting gives (${pText(v.p)}). Tests and intervals carry it.`
      : `Yes: ${figure(v.times)} times what counting gives (${pText(v.p)}), so pieces of a trial are alike. Let scatter be free on Question: intervals are too narrow now.`,
  "counting-less": (v) =>
    `Less: ${figure(v.times)} times what counting gives (${pText(v.p)}). Were pieces picked to even out, or counts rounded?`,
  "waves-differ": (v) =>
    `Yes: ${v.above} lies ${withUnit(figure(v.size), unitText(v.unit))} above ${v.below}${v.interval ? ` (${between(v.interval, unitText(v.unit))})` : ""}, ${pText(v.p)}.`,
  "waves-alike": (v) =>
    `Not clearly (${pText(v.p)})${v.interval ? `: ${v.above} less ${v.below} is ${between(v.interval, unitText(v.unit))}` : ""}.${v.out ? " They may be taken out: that is small beside the smallest change worth finding." : ""}`,
};

export const questions: Record<CheckId, string> = {
  bell: "Do the errors look bell-shaped?",
  spread: "Is the spread the same everywhere?",
  "spread-factor": "Does the spread depend on a factor?",
  order: "Did anything drift while the trials ran?",
  neighbours: "Are neighbours in run order independent?",
  single: "Does one trial stand apart?",
  setup: "Does one set-up stand apart?",
  pull: "Does one trial pull the fit?",
  bend: "Is a bend missing?",
  misfit: "Does the model miss more than copies explain?",
  scale: "Would another scale fit better?",
  copies: "Do copies of a trial scatter alike?",
  counting: "Do trials scatter by more than counting gives?",
  repeats: "Do repeats scatter alike in every trial?",
  waves: "Did waves differ?",
};

export const statistics: Record<CheckId, string> = {
  bell: "Anderson–Darling A²",
  spread: "Koenker n·R²",
  "spread-factor": "ratio of standard deviations",
  order: "slope on run order",
  neighbours: "Durbin–Watson",
  single: "largest deleted residual",
  setup: "largest over mean error of set-ups",
  pull: "largest Cook's distance",
  bend: "size of the bend",
  misfit: "lack of fit F",
  scale: "best power",
  copies: "s over pooled s",
  counting: "X² over its degrees of freedom",
  repeats: "s over pooled s",
  waves: "wave F",
};

export const approximate: Record<CheckNote, string> = {
  chosen: "p approximate: the model was chosen on these results",
  pooled: "asked with the quiet terms pooled, which leaves more errors to look at; p approximate",
  "waves-out": "asked over all waves, since steps between them are no more than a slope explains; p approximate",
};

/** What a check answers, with what must be said of its p. */
export const answered = (check: AnsweredCheck): string => answeredIn({ checks, approximate }, check);
