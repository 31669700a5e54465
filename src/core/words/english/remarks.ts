import { formatMessage, type Words } from "../../messages/message";
import type { RemarkValues, UnfitValues } from "../../messages/remarks";
import { counted, figure, fixed, listed, withUnit } from "../numbers";
import { inWords, verb } from "./parts";
import { places } from "./places";

/** "two numeric factors and a category". */
const kindsText = ({ numeric, categories }: { numeric: number; categories: number }): string => {
  const text = `${numeric === 0 ? "no" : inWords(numeric)} numeric ${verb(numeric, "factor", "factors")}`;
  return categories === 0
    ? text
    : `${text} and ${categories === 1 ? "a category" : `${inWords(categories)} categories`}`;
};

/** Why a family or a rig cannot serve a study, by code. */
export const unfits: Words<UnfitValues> = {
  factors: (v) =>
    `${v.family.subject} takes ${inWords(v.fewest)} to ${inWords(v.most)} factors; this study has ${v.have}.`,
  "numeric-factors": (v) =>
    `${v.family.subject} needs ${inWords(v.fewest)} to ${inWords(v.most)} numeric factors; this study has ${kindsText(v)}.`,
  "two-levels": (v) => `${v.family.subject} needs two levels of every category; ${v.factor} has ${v.levels}.`,
  middle: (v) => `${v.family.subject} needs a middle for every numeric factor; ${v.factor} has only two values.`,
  middles: (v) =>
    `${v.family.subject} needs at least ${inWords(v.least)} factors with a middle; this study has ${v.have}.`,
  "over-budget": (v) =>
    `${v.family.subject} takes ${counted(v.least, "trial")} or more here, past the ${v.budget} allowed.`,
  "too-large": (v) => `${v.family.subject} of these factors takes ${counted(v.trials, "trial")}; use a fraction.`,
  "no-array": (v) =>
    `No orthogonal array up to ${v.most} trials has columns of ${v.levels.join(", ")} levels together for ${v.factors === 1 ? "this factor" : `these ${v.factors} factors`}.`,
  "rig-knobs": (v) =>
    `The ${v.rig} rig also has ${v.missing.join(", ")} to set; add ${verb(v.missing.length, "that factor", "those factors")} to the study.`,
  "rig-knob": (v) => `The ${v.rig} rig has no knob called ${v.factor}.`,
  "rig-gauges": (v) => `The ${v.rig} rig measures ${v.gauges.join(", ")}; this study has none of these.`,
};

/** What is said beside figures: why one is absent, why something ends, what a wave brings with it; by code. */
export const remarks: Words<RemarkValues> = {
  // Why a path ends, or why there is none.
  "path-third-order": () => "The model has terms of third order; look along its map instead.",
  "path-level": () => "The model is level at the start; there is no way up from it.",
  "path-factor": (v) => `It ends where ${v.factor} reaches what it can be set to.`,
  "path-range": (v) =>
    `It ends at the range of ${listed(v.factors)}: how far ${verb(v.factors.length, "it", "they")} can be set beyond is not stated.`,
  "path-region": () => "It ends at a limit of the region.",
  "path-turns": () => "It ends where the model turns.",
  "path-target": () => "It ends where the target is reached.",
  "path-goes-on": (v) => `It goes on past ${counted(v.points, "point")}.`,
  // Why there is no stationary point.
  "third-order": () => "The model has terms of third order, so it has no single stationary point.",
  "no-bend": () => "The model has no squares or interactions of numeric factors: it rises or falls all the way.",
  "rising-ridge": () => "The surface is a rising ridge: along one direction it climbs without end.",
  // Figures that a model does not have.
  "no-standard-errors": () =>
    "No standard errors: the model has as many coefficients as there are results, so nothing is left to judge noise by.",
  "no-f-free": (v) =>
    `No F and no p: how far trials scatter beyond counting is told from ${counted(v.df, "degree")} of freedom, and four are the fewest that judge a term. Take terms out, run more trials, or say on Question that pieces are independent.`,
  "no-p-values": () => "No p-values: the model passes through every result exactly; what is left is rounding.",
  "no-predicted-r2": (v) =>
    `No predicted R²: the model passes through trial ${v.trial} whatever it gave (leverage 1), so it cannot be predicted without itself.`,
  "no-criteria": () => "No AICc and BIC: the residuals are rounding only, so criteria built on them mean nothing.",
  "no-aicc": (v) =>
    `No AICc: AICc is infinite: ${counted(v.coefficients, "coefficient")} and a variance on ${counted(v.results, "result")}.`,
  "no-importance": (v) =>
    `On the ${v.scale} scale the model passes its pole within the ranges, so that the response's variation has no size.`,
  "no-margins": () => "There are no margins for the half-normal plot.",
  // Why there are no contrasts, or no margins for them.
  "contrasts-wide": (v) => `${v.factor} has more than two levels, so there is no set of two-level contrasts.`,
  "contrasts-none-varies": () => "No factor varies in these trials.",
  "contrasts-no-corners": () => "These trials hold no two-level part.",
  "contrasts-unbalanced": (v) => `${v.term} is not balanced over these trials, so contrasts are not orthogonal.`,
  "contrasts-not-orthogonal": (v) => `${v.term} is not orthogonal to ${v.to} in these trials.`,
  "contrasts-sizes": (v) =>
    `Trials were counted on different ${v.share ? "numbers of pieces" : "exposures"}, so that contrasts have no one variance; the ladder judges each by itself.`,
  "contrasts-units": () =>
    "Trials were made of different numbers of units, so that contrasts have no one variance; the ladder judges each by itself.",
  "contrasts-few": () => "Fewer than five contrasts: too few for a margin.",
  // Why a term left or came in, and how the search went.
  "reduce-exact": () => "The model passes through every result: the smallest sum of squares leaves.",
  "reduce-few-df": (v) => `Too few degrees of freedom for ${v.by}: the smallest sum of squares leaves.`,
  "reduce-p-above": (v) => `p above ${v.alpha}`,
  "reduce-lower-without": (v) => `lower ${v.by} without it`,
  "reduce-p-below": (v) => `p at most ${v.alpha}`,
  "reduce-lower-with": (v) => `lower ${v.by} with it`,
  "went-forward": (v) =>
    `Going backward would start with ${v.df} residual df, too few to judge a term by; it went forward from the constant instead.`,
  // Equations that are not given.
  "equation-many": (v) =>
    `${v.combinations} category combinations: equations in natural units are given for chosen levels only.`,
  "equation-unseen": (v) =>
    `No equation for ${v.unseen.map((u) => `${u.factor} ${u.levels.join(", ")}`).join("; ")}: no trial ran there.`,
  "region-excludes": (v) =>
    `The region excludes ${counted(v.runs, "run")} of this plan; what is left is no longer balanced.`,
  // What a wave brings with it.
  "centre-beside": () =>
    "Set beside the centre points already run, these show whether the process has shifted; they tell a bend only through them.",
  "centre-alone": () =>
    "A wave of centre points alone cannot tell a bend from a shift between waves: both move all its trials alike. Run a few corners again with it.",
  "axial-faces": (v) =>
    `They stand on the faces, at low and high. Out at ±${fixed(v.star, 2)} half ranges they would tell squares better: state hard limits on Question that allow it.`,
  "axial-star": (v) =>
    `They stand out at ±${fixed(v.at, 2)} half ranges, past low and high of ${v.factors === 1 ? "the factor" : "each factor"}.`,
  "axial-no-centre": () =>
    "Without centre points in this wave its shift can only be told through the axial points; two or three would settle it.",
  "fold-block": (v) =>
    `The new wave is a block: what the turned words say (${v.words.join(", ")}${v.more ? ", …" : ""}) is from now on confounded with the shift between waves.`,
  "fold-centre": () => "Centre points of this wave beside those of the first show the shift between waves.",
  "fraction-block": () =>
    "One word of the first fraction now stands for the shift between the waves; the effects in it are confounded with that shift.",
  "in-turn": () => "Run these one after another and stop when the response turns: the order is part of the plan.",
  "place-outside": (v) => `The place to confirm lies outside: ${formatMessage(places, v.why)}`,
  reused: (v) => {
    const count = `${v.served} of the ${counted(v.points, "point")} ${verb(v.served, "is a trial", "are trials")} already run`;
    const n = v.elsewhere.length;
    if (n === 0) return `${count}.`;
    const moves = v.biases.map((b) => `${b.response} by up to ${withUnit(figure(b.size), b.unit)}`);
    const gone = v.retired.length;
    const kept = v.elsewhere.filter((f) => !v.retired.includes(f)).length;
    const begun = `${count}, with ${listed(v.elsewhere)} not where ${verb(n, "it is", "they are")} held now`;
    if (kept === 0)
      return `${begun}: what ${verb(gone, "it did there counts", "they did there counts")} as error now that ${verb(gone, "it is", "they are")} retired. Leave those trials out, or run all of the plan, where that is too much.`;
    return `${begun}: keep ${verb(n, "its main effect", "their main effects")} in the models${moves.length > 0 ? `, else what hides in ${verb(n, "it", "them")} may move ${listed(moves)}` : ""}.`;
  },
};
