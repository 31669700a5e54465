import { formatMessage, type Unit, type Words } from "../../messages/message";
import type {
  ActionId,
  AnswersValues,
  Asked,
  Climb,
  Holds,
  Missed,
  ModelValues,
  PartingName,
  PlanValues,
  QuestionValues,
  ReadingValues,
  ReportValues,
  SetpointValues,
  TrialsValues,
  Weighed,
} from "../../messages/readings";
import { counted, figure, fixed, listed, pText, rounded, withUnit, written } from "../numbers";
import { answered, questions } from "./checks";
import {
  asMuch,
  chanceText,
  changed,
  costText,
  firstOf,
  inWords,
  resettingText,
  sized,
  some,
  sumText,
  unitText,
  verb,
  within,
} from "./parts";
import { places } from "./places";
import { suspects } from "./suspects";
import { whys } from "./waves";

const askedText = (asked: Asked): string =>
  typeof asked === "object"
    ? verb(asked.picked, "the term picked", `the ${asked.picked} terms picked`)
    : {
        main: "main effects",
        "main+2fi": "main effects and two-factor interactions",
        quadratic: "main effects, interactions and bends",
      }[asked];

const parting = ({ name, factor }: PartingName): string =>
  ({
    "fold-over": "a fold-over wave",
    "one-factor": `a fold-over of ${factor} alone`,
    half: "half a fold-over",
    "missing-fraction": "the missing fraction",
    augment: "a few trials built for them",
  })[name];

const partingText = (waves: readonly PartingName[]): string => {
  const text = waves.map(parting).join(", or ");
  return `${text[0].toUpperCase()}${text.slice(1)} would part them.`;
};

const weighedText = (weighed: Weighed): string => {
  switch (weighed.by) {
    case "main":
      return "A main effect is the likelier, but it is not proved.";
    case "heredity":
      return `${weighed.likely} is the likelier: ${weighed.parents === 2 ? "both its factors are" : "one of its factors is"} active on ${weighed.parents === 2 ? "their" : "its"} own${weighed.swap ? ", so swap it in" : ""}.`;
    case "nothing":
      return `${listed(weighed.equal)} are equally likely.`;
  }
};

const holdsText: Record<Holds, string> = {
  share: "Another scale, such as logit or arcsine of root, would hold it.",
  log: "Another scale, such as log, would hold it.",
  none: "No scale offered here ends there: read predictions near it as what cannot be reached.",
};

const eachText = (v: Climb): string =>
  `A step takes ${v.response} ${sized(v.gain)} ${v.towards}${v.ratio !== null && v.s ? `, ${figure(v.ratio)} times the noise of one trial (s ${sized(v.s)})` : ""}`;
const leavesText = ({ leaves }: Climb): string =>
  leaves === 0
    ? "all of it lies within what was run, where the map says as much"
    : leaves === 1
      ? "the first step already leaves what was run"
      : `it leaves what was run at step ${leaves}`;

const inUnits = (value: number, unit: Unit): string => withUnit(figure(value), unitText(unit));

const model: Words<ModelValues> = {
  "asked-out": (v) =>
    `${listed(v.terms.slice(0, 3))}${v.terms.length > 3 ? ` and ${v.terms.length - 3} more` : ""} ${verb(v.terms.length, "was", "were")} asked and ${verb(v.terms.length, "is", "are")} not in yet: conclude nothing of ${v.response} before ${verb(v.terms.length, "it was", "they were")} weighed.`,
  "of-noise": (v) =>
    `The ${counted(v.terms, "term")} of ${v.response} may be noise: choosing alike from noise alone keeps ${fixed(v.kept, 1)} on average and seems to predict as well in one of twenty (R² ${fixed(v.r2, 2)}, here ${fixed(v.own, 2)}). A few more trials would tell.`,
  "too-small": (v) =>
    `The model of ${v.response} leaves less (s ${sized(v.s)}) than the noise ${v.copies ? "between copies" : "that is stated"} allows (${sized(v.noise)}): it follows noise. Take terms out.`,
  "left-out": (v) =>
    `Something left out of the model of ${v.response} is large: take in ${v.term} (${changed(v.size)}, ${pText(v.p)}).`,
  "nothing-active": (v) =>
    `No term of ${v.response} stands clear of the noise (s ${sized(v.s)}). It may be steady over these ranges, or the effects are smaller than these trials can see.`,
  drivers: (v) =>
    `${listed(v.leads.map((r) => r.name))} ${verb(v.leads.length, "drives", "drive")} ${v.response}: ${v.leads.map((r) => `${v.leads.length > 1 ? `${r.name} ` : ""}${changed(r.size)}`).join(", ")}.`,
  likely: (v) =>
    `${listed(v.terms.map((r) => r.name))} likely ${verb(v.terms.length, "acts", "act")} on ${v.response}: ${v.terms.map((r) => `${v.terms.length > 1 ? `${r.name} ` : ""}${changed(r.size)} (${pText(r.p)})`).join(", ")}. Of ${counted(v.looked, "term")} looked at, one in twenty passes by chance.`,
  together: (v) => {
    const fixed = v.fixed.length > 0 ? `, with ${listed(v.fixed.map((f) => `${f.factor} at ${f.at}`))}` : "";
    const over = v.over.length > 0 ? `, over all levels of ${listed(v.over)}` : "";
    return `${v.pair} ${v.sure ? "act" : "likely act"} together: from low to high ${v.mover} changes it by ${rounded(v.ends[0].change, v.error)} at ${v.other} ${v.ends[0].at} but by ${rounded(v.ends[1].change, v.error)} at ${v.ends[1].at}${fixed}${over}. Read the two as a pair.`;
  },
  bends: (v) =>
    `${v.factor} ${v.sure ? "bends" : "likely bends"}: its edges lie ${sized({ ...v.size, value: Math.abs(v.size.value) })} ${v.size.value > 0 ? "above" : "below"} the straight line through its middle${within(v.interval, v.size.error)}.`,
  alias: (v) =>
    `${v.term} cannot be told from ${firstOf(v.others, 3)} in these trials. ${weighedText(v.weighed)} ${partingText(v.waves)}`,
  influential: (v) => {
    const { before, after } = v.s;
    const distance = v.cooks === null ? "" : `Cook's distance ${figure(v.cooks)}, `;
    const spread = `s goes from ${rounded(before, before)} to ${withUnit(rounded(after, before), unitText(v.unit))}`;
    const moved = v.moved
      ? ` and the coefficient of ${v.moved.term} from ${rounded(v.moved.before, before)} to ${rounded(v.moved.after, before)}`
      : "";
    return `Trial ${v.order} rules part of the fit (${distance}${figure(v.off)} standard errors off). Without it ${spread}${moved}.`;
  },
  "bend-or-shift": (v) =>
    `Bend or shift: ${v.above} lies ${sized(v.size)} above ${v.below} (${pText(v.p)}), and with the centre in a wave of its own these trials cannot say which. Axial points with some corners run again would.`,
  curvature: (v) =>
    `The centre of ${v.response} lies ${sized({ ...v.size, value: Math.abs(v.size.value) })} ${v.size.value < 0 ? "below" : "above"} the plane of the corners (${pText(v.p)}): at least one factor bends, and these trials cannot say which. Axial points would; until then predictions between the corners may be off by up to that.`,
  "wave-shift": (v) =>
    `${v.above} lies ${sized(v.size)} above ${v.below}${within(v.interval, v.size.error)}. ${v.inModel ? "It is in the model as a block." : "It is not in the model: take the waves in."}`,
  "waves-alike": (v) =>
    `Waves do not clearly differ (${pText(v.p)}): ${v.above} less ${v.below} is ${sized(v.size)}${within(v.interval, v.size.error)}.${v.out ? " That is small beside the smallest change worth finding: they may be taken out." : ""}`,
  "no-residual-df": (v) =>
    `${counted(v.coefficients, "coefficient")} on ${counted(v.results, "result")}: nothing is left to judge noise by. Take quiet terms out, or read the half-normal plot.`,
  "few-df": (v) =>
    `Only ${v.df} ${verb(v.df, "degree of freedom judges", "degrees of freedom judge")} the noise of ${v.response}: intervals and p hang on ${verb(v.df, "it", "them")}. Take quiet terms out, or run more trials.`,
  dropped: (v) =>
    `${listed(v.columns)} cannot be estimated beside the rest${v.sum ? `: ${v.sum.of} = ${sumText(v.sum.parts)}` : ""}.`,
  unseen: (v) =>
    `No trial of ${v.response} ran at ${v.factor} ${listed(v.levels)}: nothing is known there, and predictions for it are only what the other levels leave over.`,
  "exact-model": (v) =>
    `${v.response} has no noise: trials run again came out the same. Its intervals are as wide as the model is off, not as results scatter, and a p says how an effect stands against what the model leaves.`,
  "lack-of-fit": (v) =>
    `The model misses more than repeats explain: lack of fit F ${figure(v.f, 3)} on ${v.df} and ${v.pureErrorDf} df (${pText(v.p)}). A term is missing or a scale would help.`,
  overfit: (v) =>
    `R² is ${v.r2.toFixed(2)} but predicted R² only ${fixed(v.r2Predicted, 2)}: the model follows these trials better than it will follow the next. Reduce it.`,
  "penalised-separates": (v) =>
    `Something separates ${v.response} altogether: with plain likelihood its size would have no end. Firth's penalty holds it; tests and intervals come from the penalised likelihood.`,
  "penalised-few": (v) =>
    `Hardly anything was counted: ${v.counted} ${v.events ? (v.counted === 1 ? "event" : "events") : v.counted === 1 ? "piece without the event" : "pieces without the event"} of ${v.response} with ${v.of}${v.level ? ` ${v.level}` : ""}. Firth's penalty takes out the bias this gives; more pieces would do more.`,
  "scatter-carried": (v) =>
    `Trials scatter ${figure(v.times)} times as much as counting gives: ${v.share ? "pieces" : "events"} of one trial are alike, so more trials tell more than more ${v.share ? "pieces" : "exposure"}. Tests and intervals of ${v.response} carry it.`,
  setups: (v) => {
    const vary =
      v.between === null
        ? `vary no more than their trials do (s ${sized(v.within)})`
        : `vary by s ${sized(v.between)}, the trials of one by ${sized(v.within)}`;
    const ignored = v.ignored
      ? ` Taken as ${v.trials} trials on their own, ${v.ignored.term} would have read ${pText(v.ignored.p)} where ${pText(v.ignored.right)} is right.`
      : "";
    return `${counted(v.setups, "set-up")}: they ${vary}. What is hard to change is judged between them, with ${counted(v.df, "degree")} of freedom.${ignored}`;
  },
  "setups-assumed": (v) =>
    `${counted(v.setups, "set-up")} ${verb(v.setups, "is", "are")} too few to tell how set-ups vary. Intervals and p-values of ${v.response} take their variance to be ${asMuch(v.ratio)} that of trials: a guess, not an estimate. A few more set-ups would tell.`,
  "units-unequal": (v) =>
    `Trials of ${v.response} were made of ${v.least} to ${v.most} units, and weigh by what their means vary by: units within a trial by s ${sized(v.within)}, trials ${v.between === null ? "no more than that explains" : `by ${sized(v.between)} beside it`}.`,
  empirical: (v) =>
    `In set-ups ${v.response} is judged by the ${v.share ? "logit of each trial’s share" : "logarithm of each trial’s rate"}, half an event added, every trial counting alike: what pieces alone would scatter is part of what trials do, and a next trial is one of the usual size.`,
  floored: (v) =>
    `${v.n === 1 ? "One spread was" : `${v.n} spreads were`} 0 and ${verb(v.n, "stands", "stand")} at the smallest step the results are written in: the true spread there may be less.`,
  averaged: (v) =>
    `Predictions of ${v.response} come from the average of ${v.models} models; ladder, table and checks are those of the single model chosen.`,
  "climb-not-yet": (v) =>
    `Do not climb yet: the centre of ${v.response} lies off the plane that the path follows. ${eachText(v)}, by the plane alone; axial points first.`,
  "climb-no-need": (v) => `No need to climb: ${eachText(v)}, and ${leavesText(v)}.`,
  "climb-hardly": (v) =>
    `Hardly worth climbing: ${eachText(v)}, so that several trials a step would be needed to see it; ${leavesText(v)}.`,
  climb: (v) =>
    `Worth climbing: ${eachText(v)}, and ${leavesText(v)}. ${v.open.length > 0 ? `Say on Question how far ${listed(v.open)} can be set, as hard limits; then run` : "Run"} along the path until it stops ${v.towards === "higher" ? "rising" : "falling"}.`,
  check: (v) => `${questions[v.check.id]} ${answered(v.check)}`,
  orphans: (v) =>
    `${listed(v.terms)} ${verb(v.n, "stands", "stand")} in the model without ${verb(v.n, "its", "their")} main effects; such a model changes with the coding.`,
  "beyond-bounds": (v) =>
    `In about ${v.percent} % of the region the model gives ${v.response} values that cannot be (${v.side} ${written(v.bound)}). ${holdsText[v.holds]}`,
  idle: (v) =>
    `${listed(v.factors)} ${verb(v.factors.length, "is", "are")} quiet for ${v.response}: ${verb(v.factors.length, "an effect", "effects")} of up to ${sized(v.most)} could still hide.`,
};

const plan: Words<PlanValues> = {
  "too-few-factors": () => "A plan needs at least two factors; add them first.",
  "next-wave": (v) => {
    const gains = [
      v.parted > 0 ? `parts ${counted(v.parted, "pair")} of effects` : "",
      v.tells ? `tells ${v.tells.now} of ${counted(v.tells.of, "effect")} instead of ${v.tells.before}` : "",
      v.clears > 0 ? `clears ${v.clears}` : "",
    ].filter(Boolean);
    return `${formatMessage(whys, v.why)} ${v.plan}, ${v.more} more ${verb(v.more, "trial", "trials")}${gains.length > 0 ? `: ${listed(gains)}` : ""}.`;
  },
  "take-this": (v) => {
    const sees = (value: number): string => inUnits(Number(value.toPrecision(3)), v.unit);
    const which = { sees: "the cheapest", cheapest: "the cheapest", sharpest: "the sharpest" }[v.by];
    const told = v.tellsAll
      ? `${which} that tells all that is asked${v.by === "sees" ? " and sees what is worth finding" : ""}`
      : `no plan tells all that is asked; of those that keep main effects clearest it is ${which}${v.by === "sees" ? " that sees what is worth finding" : ""}`;
    const c = v.cheaper;
    const lack =
      c === null
        ? ""
        : c.lacks === "tells-less"
          ? `would lose ${c.lost} of ${counted(c.of, "effect")}`
          : c.lacks === "few-df"
            ? `would leave ${c.df === 0 ? "no degrees" : counted(c.df, "degree")} of freedom for error`
            : c.lacks === "less-clear"
              ? "would leave main effects beside interactions that may be there"
              : `would see ${c.sees === null ? "nothing" : `${sees(c.sees)} and more`}`;
    return `Take ${v.letter}, ${v.plan}: ${told}. It sees ${sees(v.sees)}, with ${counted(v.df, "degree")} of freedom for error.${c ? ` ${c.letter ? `${c.letter}, ` : ""}${c.plan}, cheaper by ${costText(v.costs, c.saves)}, ${lack}.` : ""}`;
  },
  "fewest-trials": (v) =>
    `${counted(v.factors, "factor")} have ${v.pairs} two-factor ${verb(v.pairs, "interaction", "interactions")}: ${counted(v.least, "trial")} ${verb(v.least, "is", "are")} the least that can tell ${askedText(v.asked)} apart.`,
  "no-plans": (v) =>
    `No plan on offer fits ${counted(v.budget, "trial")}. Raise the budget or take centre points and replicates away.`,
  "none-bends": () =>
    "Two-level plans cannot show which factor bends, only whether anything does, from centre points. A second wave with axial points can.",
  "none-tells-all": (v) => `No plan within ${counted(v.budget, "trial")} tells ${askedText(v.asked)} all apart.`,
  "sharp-enough": (v) =>
    `With noise ${inUnits(v.noise, v.unit)} and ${inUnits(v.smallest, v.unit)} worth finding in ${v.response}, ${counted(v.trials, "trial")} (${v.plan}) ${verb(v.trials, "is", "are")} enough at power ${v.power.toFixed(2)}.`,
  "not-sharp": (v) =>
    `No plan within ${counted(v.budget, "trial")} would see ${inUnits(v.smallest, v.unit)} in ${v.response} at power ${v.power.toFixed(2)}; the sharpest sees ${inUnits(v.sharpest, v.unit)}.`,
  "noise-unknown": (v) =>
    v.counted
      ? "State what share or rate to expect, on how much a trial counts, and the smallest change worth finding: plans are then judged by what would be counted."
      : "State noise and the smallest change worth finding of a response, and plans are judged in its units instead of σ.",
  chains: (v) =>
    `Plan ${v.plan} leaves ${v.lost} of ${counted(v.of, "effect")} in chains: ${v.term} cannot be told from ${listed(v.with)}. If one turns out active, a second wave must part them.`,
  "resolution-three": (v) =>
    `Plan ${v.plan} is of resolution III: main effects travel with two-factor interactions, so a large interaction looks like a main effect.`,
  "no-error-df": (v) =>
    `Plan ${v.plan} leaves no degrees of freedom for error; its sharpness rests on the stated noise. Centre points or replicates would give it some.`,
  "loses-trials": (v) =>
    `The region excludes ${counted(v.n, "trial")} of plan ${v.plan}; what is left is no longer balanced.`,
  "no-centre": (v) =>
    v.categories
      ? "Centre points would show whether anything bends. Spread over the levels of a category they estimate noise only where two or more share a level."
      : "Three centre points would show whether anything bends, and give a pure estimate of noise.",
  "standard-order": () =>
    "Trials in standard order let anything that drifts with time pass for an effect of the last factors. Randomise unless the process forbids it.",
  adopt: () =>
    "Adopt the plan that suits, as wave 1. What it leaves open a later wave can part; nothing that was run is lost.",
};

const question: Words<QuestionValues> = {
  "no-responses": () => "Name what is measured first: a response with its unit and what would be good.",
  "no-factors": () => "List the settings that may matter, each with the range it may be run over.",
  "one-factor": () => "One factor so far; a plan needs at least two.",
  "no-goals-yet": () =>
    "No response has a goal yet. Say which to raise, lower or keep within limits, so that a setpoint can be found.",
  "noise-unsaid": (v) =>
    v.responses.length === 0
      ? `State what to expect in the middle, on how much a trial counts, and the smallest change worth finding for ${listed(v.counted)}; without them plans cannot be judged by what would be counted.`
      : `State the noise to expect and the smallest change worth finding for ${listed(v.responses)}${v.counted.length > 0 ? `, and what to expect of ${listed(v.counted)}` : ""}; without them plans are judged in units of σ.`,
  "small-change": (v) =>
    `${v.response}: the smallest change worth finding (${inUnits(v.smallest, v.unit)}) is only ${figure(v.ratio)} of the noise; about ${counted(v.trials, "trial")} would be needed to see it.`,
  "corners-all-excluded": () => "The region excludes every corner; check its limits.",
  "corners-excluded": (v) =>
    `The region excludes ${v.excluded} of the ${counted(v.corners, "corner")}. Two-level plans lose the trials that stand there.`,
  "limits-beside-corners": (v) =>
    `The region's limits exclude no corner of the ranges, but trials beside them: ${listed(v.plans.map((l) => `a ${l.plan.toLowerCase()} plan loses ${l.lost} of its ${counted(l.trials, "trial")}`))}.`,
  "limits-idle": () => "The region's limits exclude no corner of the ranges, so plans are not affected.",
  "no-step": (v) =>
    `Say in what steps ${listed(v.factors)} can be set, so that no trial or setpoint asks for a value the machine does not have.`,
  "hard-to-change": (v) => {
    const it = verb(v.factors.length, "it", "them");
    return `${listed(v.factors)} ${verb(v.factors.length, "is", "are")} hard to change: plans keep ${it} set over several trials, and what ${verb(v.factors.length, "it does", "they do")} is judged by how set-ups differ.${v.cost ? "" : " Say what a set-up costs, and Plan weighs set-ups against trials."}`;
  },
  hardest: (v) =>
    `${v.response} is the hardest to see: its smallest change worth finding is ${figure(v.ratio)} times its noise. Plans are judged by it first.`,
  "ready-to-plan": (v) =>
    `${counted(v.factors, "factor")}${v.categories ? ", categories among them," : ""} and ${counted(v.responses, "response")}: enough to weigh plans.`,
};

const trials: Words<TrialsValues> = {
  "no-trials": () => "There are no trials yet. Choose a plan and adopt it as wave 1.",

  "next-trial": (v) => {
    const again =
      v.setup && v.setup.same.length > 0
        ? `, and reset ${listed(v.setup.same)} even if ${verb(v.setup.same.length, "it shows", "they show")} the same`
        : "";
    const what =
      v.moves === null
        ? "set every factor"
        : v.moves.length === 0
          ? "nothing changes"
          : `change ${firstOf(v.moves.map(resettingText), 4)}`;
    return `Trial ${v.order}${v.setup ? ` begins set-up ${v.setup.number}` : ""}: ${what}${again}. ${counted(v.left, "trial")} left.`;
  },
  "path-turned": (v) =>
    `${v.response} has turned on its way: trial ${v.order} was best, the two after it are worse. ${v.waits ? "Stop here: skip the steps left, and plan" : "Plan"} the next wave around trial ${v.order}.`,
  surprise: (v) =>
    `Trial ${v.order}: ${v.response} is ${rounded(Math.abs(v.off), v.error)} ${v.off > 0 ? "above" : "below"} what the trials before it lead to expect, outside the interval for one trial (${rounded(v.interval[0], v.error)} to ${withUnit(rounded(v.interval[1], v.error), v.unit)}).`,
  "centre-drift": (v) =>
    `The last ${inWords(v.centres)} centres of ${v.response} ${v.each > 0 ? "climb" : "fall"} by ${inUnits(Math.abs(v.each), v.unit)} each, more than chance explains: stop and look for what changes with time?`,
  failed: (v) =>
    `${counted(v.orders.length, "trial")} failed${v.orders.length > 1 ? `, the last of them trial ${v.last}` : `: trial ${v.last}`}${v.why === null ? "." : ` (“${v.why.replace(/\.$/, "")}”).`} Its menu lets it wait again.`,
  "few-between": (v) =>
    `Plan ${v.plan} leaves ${v.df === 0 ? "no degree" : "one degree"} of freedom between set-ups: ${v.terms.length === 0 ? "what hard factors do" : listed(v.terms)} would get no p, only intervals at assumed variances. Ask for more set-ups.`,
  "reset-anyway": (v) =>
    `${listed(v.factors)} set anew for every one of ${counted(v.reset, "trial")}, the plan would see ${inUnits(v.sees.reset, v.unit)}; kept in ${counted(v.kept, "set-up")} it sees ${inUnits(v.sees.kept, v.unit)}${v.cost.reset > v.reset ? ` at cost ${figure(v.cost.kept, 3)} instead of ${figure(v.cost.reset, 3)}` : ""}.`,
  "several-unsaid": (v) =>
    `${counted(v.trials, "trial")} ${verb(v.trials, "holds", "hold")} several values of ${v.response}. What are they: one thing measured again, or pieces that were made? Measured again they are averaged; of pieces, limits and chances are those of one piece.`,
  "mark-setups": (v) =>
    `${listed(v.factors)} stayed as set for up to ${v.most} trials in a row: ${v.trials} trials in ${v.setups} set-ups, if nothing was reset between. Unless that is marked, what ${verb(v.factors.length, "it does", "they do")} looks surer than it is. A trial's menu says where else a new set-up began.`,
  exact: (v) =>
    `${listed(v.responses)} ${verb(v.responses.length, "comes", "come")} out the same to the last digit whenever a trial is run again: a computation, without noise. Repeats tell nothing more.`,
  drift: (v) =>
    `${v.response} drifts by ${inUnits(v.slope, v.unit)} a trial while the trials run (${pText(v.p)}). Look for what changed with time.`,
  "as-run-differs": (v) =>
    `Trial ${v.order} ran at ${v.ran}, not ${v.planned}${v.more > 0 ? `; ${v.more} more ran off plan` : ""}. Models use what was run.`,
  "outside-region": (v) =>
    v.orders.length === 1
      ? `Trial ${v.orders[0]} stands outside the region as it is now. It still counts.`
      : `${v.orders.length} trials (${some(v.orders)}) stand outside the region as it is now. They still count.`,
  missing: (v) =>
    `${v.response} is missing in ${v.orders.length} of ${counted(v.of, "trial")} that were run (${some(v.orders)}).`,
  "all-run": (v) =>
    v.n === 1 ? "The one trial is run. See what it tells." : `All ${v.n} trials are run. See what they tell.`,
};

/** "Loft 12.75 mm (13 mm or more wanted)". */
export const missedText = (m: Missed): string =>
  `${m.response} ${withUnit(figure(m.mean, 4), m.unit)} (${withUnit(figure(m.limit, 4), m.unit)} or ${m.below ? "more" : "less"} wanted)`;

const meansText = (n: number): string => `the ${n === 1 ? "result of one trial" : `means of ${n} trials`}`;
const shortText = (missed: readonly Missed[]): string =>
  `${listed(missed.map(missedText))} ${verb(missed.length, "misses its limit", "miss their limits")}`;

/** The chance as in the last wave beside that of a new one. */
const wavesText = (waves: { apart: string[]; last: string; chance: number } | null): string =>
  waves
    ? `; as in ${waves.last} with ${chanceText(waves.chance)}. Waves of ${listed(waves.apart)} lie apart, and where the next one lies is known from few`
    : "";

const setpoint: Words<SetpointValues> = {
  "no-goals": () => "No response has a goal yet. Say which to raise, lower or keep within limits.",
  "missing-models": (v) => `${listed(v.responses)} ${verb(v.responses.length, "has", "have")} a goal but no model yet.`,

  confirmed: (v) =>
    `The setpoint is confirmed: ${meansText(v.trials)} ${verb(v.trials, "agrees", "agree")} with the prediction${v.limits ? " and every limit is met" : ""}.`,
  "confirmed-short": (v) =>
    `The prediction is confirmed, the setpoint is not good enough: ${meansText(v.trials)} ${verb(v.trials, "agrees", "agree")} with it, but ${shortText(v.missed)}.`,
  "not-confirmed": (v) =>
    `The confirmation does not agree with the prediction${v.missed.length > 0 ? `, and ${shortText(v.missed)}` : v.meetsLimits ? ", though every limit is met" : ""}.${v.suspect ? ` ${formatMessage(suspects, v.suspect)}` : ""}`,
  "nothing-meets": (v) => {
    const short = v.short.map(
      (s) => `${s.response} comes to ${figure(s.mean, 3)} against ${withUnit(figure(s.limit, 3), s.unit)}`,
    );
    const met = v.met.length > 0 ? `, while ${listed(v.met)} ${verb(v.met.length, "is", "are")} met` : "";
    return `No settings in the region meet every goal at once: at the nearest, ${listed(short)}${met}. Loosen a limit, lower an importance or widen a range.`;
  },
  "best-settable": (v) =>
    `The best settable point ${v.of === null ? "found" : `of all ${v.of.toLocaleString("en")}`} has overall desirability ${v.overall.toFixed(3)}; the exact optimum has ${v.exact.toFixed(3)}: rounding costs ${v.exact - v.overall < 0.0005 ? "next to nothing" : (v.exact - v.overall).toFixed(3)}.`,
  chance: (v) =>
    `All limits are met in one future trial${v.waves ? " of a new wave" : ""} with chance ${chanceText(v.chance)}${v.settingErrors ? ", setting errors included" : ""}${wavesText(v.waves)}.${v.weakest ? ` ${v.weakest.response} is what fails first (met with ${chanceText(v.weakest.chance)}).` : ""}`,
  chained: (v) =>
    `These trials cannot tell ${v.term} from ${v.other}. Were it the second that acts on ${v.response}, the first candidate would have overall desirability ${v.here.toFixed(2)}, not ${v.promised.toFixed(2)}${v.best - v.here > 0.01 ? `, where ${v.best.toFixed(2)} could be had` : ""}: part the two before you settle.`,
  screened: (v) =>
    `The trials behind ${listed(v.responses)} were planned to rank factors: pairs that act hide in main effects, so take what is found here for a direction, not for the best. Carry the factors that count into a wave that tells pairs.`,
  "open-best": (v) =>
    `Noise leaves open which settings are best: by what these trials tell, the first candidate comes within ${v.within} of the best overall desirability with probability ${chanceText(v.share)}. More trials of the factors that count would settle it.`,
  "low-chance": (v) =>
    `The mean meets every limit here, yet a single trial is more likely to miss one than not. Look at ${v.response} before you promise anything.`,
  "no-chance": () =>
    "The chance of meeting limits cannot be told: a model has no error degrees of freedom and its response no stated noise.",
  "few-df-setpoint": (v) =>
    `The noise of ${listed(v.responses)} is judged by fewer than ${v.least} degrees of freedom: intervals and the chance of meeting limits hang on them.`,
  "assumed-setpoint": (v) => {
    const alike = v.assumed.every((a) => a.ratio === v.assumed[0].ratio);
    const said = alike
      ? `${asMuch(v.assumed[0].ratio)} that of trials for ${listed(v.assumed.map((a) => a.response))}`
      : listed(v.assumed.map((a) => `${asMuch(a.ratio)} that of trials for ${a.response}`));
    return `Set-ups are too few to tell how they vary: their variance is taken to be ${said}. Intervals, chances and verdicts that rest on that are marked †.`;
  },
  extrapolates: (v) =>
    `For ${listed(v.responses)} the best point lies farther out than any trial that was run; its intervals lean on the model's shape. Confirm before relying on it.`,
  "breaks-bounds": (v) =>
    `${listed(v.responses)}: the prediction or its interval passes a physical bound at the best point.`,
  control: (v) =>
    `Control ${listed(v.factors.map((f) => f.name))} tightest: ${listed(v.factors.map((f) => `${inUnits(f.off, f.unit)} off in ${f.name} costs ${f.loss.toFixed(2)}`))} of desirability.`,
  "against-best": (v) =>
    `Of the trials run, number ${v.order} comes nearest with ${v.overall.toFixed(2)}; the best settable point ${v.gain > 0.005 ? `gains ${v.gain.toFixed(2)} on it` : "is no better"}.`,
  "setpoint-incomplete": () => "The chosen setpoint lacks a factor that was added since; choose again.",
  "setpoint-outside": () => "The chosen setpoint lies outside the region as it is now; choose again.",
  "setpoint-older": (v) =>
    `The chosen setpoint has desirability ${v.now.toFixed(2)} under the present models; the best settable point has ${v.best.toFixed(2)}. Choose again, or keep it knowingly.`,
  confirming: (v) =>
    `${v.done} of ${counted(v.of, "confirmation trial")} ${verb(v.of, "is", "are")} run; enter the rest.`,

  confirm: (v) =>
    `Confirm the setpoint with three trials: their means should fall within ${listed(
      v.means.map((m) => {
        const show = (x: number): string => (m.decimals === null ? rounded(x, m.error) : fixed(x, m.decimals));
        return `${m.response} ${show(m.interval[0])} to ${withUnit(show(m.interval[1]), m.unit)}`;
      }),
    )}.`,
  choose: () => "Choose a candidate as the setpoint; it then stands in the report.",
};

const report: Words<ReportValues> = {
  "no-setpoint": () => "No setpoint is chosen yet; the report ends with the models.",
  unconfirmed: (v) =>
    ({
      disagrees: "The confirmation does not agree with the prediction: say so when you hand this on.",
      "misses-limit": "The confirmation agrees with the prediction but misses a limit: say so when you hand this on.",
      "not-run": "The setpoint has not been confirmed by trials of its own: say so when you hand this on.",
    })[v.how],
  unmodelled: (v) =>
    `${listed(v.responses)} ${verb(v.responses.length, "has", "have")} no chosen model and ${verb(v.responses.length, "is", "are")} left out.`,
};

/** What answers at the doors add of themselves. */
const answers: Words<AnswersValues> = {
  "no-efficiencies": () => "Efficiencies are left out: these trials cannot estimate every term of the model.",
  "no-power": () => "Power is left out: these trials leave no degrees of freedom for error.",
  "g-at-most": () =>
    "G is at most what is given: the region has too many vertices to look at each, so the largest prediction variance is the largest that a search found.",
  "none-meets": () => "No settings meet every goal at once; the point that falls short least is shown.",
  "no-chance-given": () =>
    "The chance of meeting limits is left out: a model has no error degrees of freedom and its response no stated noise.",
  "stands-outside": (v) =>
    `Trial ${v.order} stands outside: ${formatMessage(places, v.how)}${v.others === 0 ? "" : ` So ${verb(v.others, "does", "do")} ${counted(v.others, "other trial")}.`}`,
  search: () => "Search the region for the best settings.",
  "search-again": () =>
    "Something changed since the last search: candidates may not be the best any more. Search again.",
  "offered-only": (v) =>
    `${listed(v.responses)} ${verb(v.responses.length, "has", "have")} no chosen model yet: the one first offered is taken.`,
  "not-fitted": (v) =>
    `${listed(v.responses)} cannot be fitted yet and ${verb(v.responses.length, "is", "are")} left out.`,
  "evidence-failed": () => "Checks and readings could not be worked out in this page; reload it and look again.",
};

/** Readings of every station, by code. */
export const readings: Words<ReadingValues> = {
  ...question,
  ...plan,
  ...trials,
  ...model,
  ...setpoint,
  ...report,
  ...answers,
};

/** Buttons of readings. */
export const actions: Record<ActionId, string> = {
  question: "Open Question",
  plans: "Weigh plans",
  "next-wave": "Weigh the next wave",
  trials: "Open Trials",
  bench: "Open at the bench",
  model: "Open Model",
  "the-model": "Open the model",
  setpoint: "Open Setpoint",
  "stop-running": "Stop programs and rigs",
  "mark-setups": "Mark these set-ups",
  "several-repeats": "Measured again",
  "several-units": "Pieces made",
  "take-offer": "Take in what is offered",
};
