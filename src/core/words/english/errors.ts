import type { ErrorValues, NotJson, Remedy, Rule } from "../../messages/errors";
import { formatMessage, type Words } from "../../messages/message";
import { counted, figure, fixed, grouped, listed, withUnit, written } from "../numbers";
import { countedFaultText } from "./counted";
import { inWords, notOne, verb } from "./parts";
import { unfits } from "./remarks";

const WANTED: Record<string, string> = {
  int: "a whole number",
  number: "a number",
  string: "text",
  boolean: "true or false",
  array: "a list",
  object: "an object",
  record: "an object",
};

const ruleWords: Record<Rule, string> = {
  id: "ids hold no quotes, commas or *, and do not begin with @ or a space",
  letter: "a letter is one capital, or one with a letter or digit behind it, like A or T2",
  recipe: "a number, a text or a switch can stand there",
  shape: "it must be of another shape; the description of the study file says which",
};

/** In words that end a sentence. */
function remedyText(remedy: Remedy): string {
  switch (remedy.do) {
    case "lengthen":
      return `it needs at least ${written(remedy.least)}`;
    case "shorten":
      return `it may hold at most ${remedy.text ? counted(remedy.most, "character") : remedy.most}`;
    case "raise":
      return `give a number ${remedy.inclusive ? "of at least" : "above"} ${written(remedy.bound)}`;
    case "lower":
      return `give a number ${remedy.inclusive ? "of at most" : "below"} ${written(remedy.bound)}`;
    case "choose":
      return remedy.of.length === 1 ? `it must be ${remedy.of[0]}` : `choose one of ${remedy.of.join(", ")}`;
    case "write":
      return `it must be ${WANTED[remedy.what] ?? remedy.what}`;
    case "follow":
      return ruleWords[remedy.rule];
  }
}

const notJson = ({ of, name }: NotJson): string => {
  switch (of) {
    case "study-file":
      return name === ""
        ? "This is not a study file: its text is not JSON. Choose a file that ends in .trialmoor.json."
        : `${name} is not a study file: its text is not JSON.`;
    case "terms":
      return `The file ${name} does not hold a JSON array of terms.`;
    case "settings":
      return `${name} is not JSON; write it like '{"temp":60}'.`;
    case "body":
      return "The body is not JSON.";
  }
};

const sameText = ([a, b]: readonly [string, string]): string =>
  a === b ? `“${a}” stands twice` : `“${a}” and “${b}” mean the same`;

/** What is refused, by code and, after a dot, by case. */
export const errors: Words<ErrorValues> = {
  "absurd-number": (v) => `${v.place} is not a usable number; keep it within ±10¹⁵.`,
  "all-run": () => "Every fraction of this family has been run.",
  "axial-too-far": (v) =>
    `Axial points at ${fixed(v.alpha, 3)} half-ranges lie outside what ${v.factor} can be run at (${fixed(v.distance, 3)}); use face, or a number up to that.`,
  "bad-alpha": (v) => `α is ${written(v.alpha)}; give a number between 0 and 1.`,
  "bad-axial": (v) =>
    `The axial distance “${v.asked}” cannot be read; give rotatable, spherical, face, orthogonal-blocks, or a number from above 0 to 10.`,
  "bad-blocks.box-behnken": (v) =>
    v.orthogonal === null
      ? "Box–Behnken of three factors has no orthogonal blocks; run it in one."
      : `Box–Behnken of ${inWords(v.factors)} factors splits into ${inWords(v.orthogonal)} orthogonal blocks, not ${written(v.blocks)}.`,
  "bad-blocks.composite-two": () =>
    "The corners of a two-factor composite cannot be split: use two blocks, corners and axial points.",
  "bad-blocks.family": (v) =>
    `${v.family} plans are not split into blocks; ask for as many replicates as blocks, and each copy is a block.`,
  "bad-blocks.interaction": (v) =>
    `The ${counted(v.corners, "corner")} cannot be split into ${counted(v.blocks, "block")} without losing an interaction; use fewer blocks.`,
  "bad-blocks.main-effect": (v) =>
    `${counted(v.trials, "trial")} cannot be split into ${counted(v.blocks, "block")} without losing a main effect; use fewer blocks.`,
  "bad-blocks.powers": (v) =>
    `${written(v.trials)} two-level trials split into 2, 4, 8 … blocks of at least two; ${written(v.blocks)} is not one of them.`,
  "bad-blocks.replicates": () =>
    "Blocks by confounding need two levels of every factor; ask for as many replicates as blocks, each a block.",
  "bad-blocks.too-few": (v) => `${counted(v.trials, "trial")} cannot fill ${counted(v.blocks, "block")}.`,
  "bad-blocks.two-levels": () => "Blocks by confounding need two levels of every factor; run the plan in one block.",
  "bad-count.array": (v) =>
    v.sizes.length === 0
      ? "No orthogonal array up to 36 trials has columns for these factors at these levels."
      : `Orthogonal arrays for these factors have ${v.sizes.join(", ")} trials; ${notOne(v.trials)}.`,
  "bad-count.between": (v) =>
    `${v.name} is ${written(v.value)}; give a whole number from ${written(v.least)} to ${written(v.most)}.`,
  "bad-count.box-behnken": (v) =>
    `Box–Behnken with these factors has ${counted(v.size, "trial")} and centre points besides, not ${written(v.trials)}.`,
  "bad-count.centre": (v) => `The number of centre points is ${written(v.n)}; give a whole number from 1 to 200.`,
  "bad-count.centre-blocks": (v) =>
    `With ${written(v.centre)} centre points the ${counted(v.corners, "block")} of corners hold different numbers of them, and no axial distance makes the blocks orthogonal; ask for ${written(v.fewer)} or ${written(v.more)}.`,
  "bad-count.centre-copies": () =>
    "The copies would hold different numbers of centre points, and no axial distance makes all their blocks orthogonal; ask for as many as divide by the number of blocks.",
  "bad-count.composite": (v) =>
    `A central composite plan of these factors has ${v.sizes.join(" or ")} trials and centre points besides, not ${written(v.trials)}.`,
  "bad-count.definitive": (v) =>
    `Definitive screening of these ${counted(v.factors, "factor")} has ${v.sizes.join(", ")} trials; ${notOne(v.trials)}.`,
  "bad-count.factorial": (v) =>
    `A full factorial of these ${counted(v.factors, "factor")} has ${counted(v.runs, "trial")}, not ${written(v.trials)}.`,
  "bad-count.follow": (v) => `${v.what} is ${written(v.n)}; give a whole number from 1 to ${written(v.most)}.`,
  "bad-count.fraction": (v) =>
    `A regular fraction of ${counted(v.factors, "factor")} has ${v.sizes.join(", ")} trials; ${notOne(v.trials)}.`,
  "bad-count.generators": (v) => `These generators make ${counted(v.runs, "trial")}, not ${written(v.trials)}.`,
  "bad-count.hadamard": (v) =>
    `There is no Plackett–Burman plan in ${counted(v.trials, "trial")}; sizes are ${v.sizes.join(", ")}.`,
  "bad-count.most": (v) => `${v.name} is ${written(v.value)}; the most is ${written(v.most)}.`,
  "bad-count.no-array": (v) => `There is no orthogonal array of these factors in ${counted(v.trials, "trial")}.`,
  "bad-count.no-fraction": (v) =>
    `There is no regular fraction of ${counted(v.factors, "factor")} in ${counted(v.runs, "trial")}.`,
  "bad-count.plackett-burman": (v) =>
    `A Plackett–Burman plan of ${counted(v.factors, "factor")} has ${v.sizes.join(", ")} trials${v.folded ? " folded over" : ""}; ${notOne(v.trials)}.`,
  "bad-count.say-fraction": (v) => `Say how many trials: ${v.sizes.join(", ")}.`,
  "bad-count.say-optimal": (v) =>
    `Say how many trials: this model has ${counted(v.columns, "column")}, so at least ${written(v.least)}.`,
  "bad-edit.order": (v) => `The new order of ${v.list} must hold the same members.`,
  "bad-edit.place": (v) => `There is nothing to edit at ${v.place}.`,
  "bad-generator.generated": (v) =>
    `The generator of ${v.factor} uses ${v.other}, which is generated itself; use base factors only.`,
  "bad-generator.left": (v) => `Generator “${v.part}” has more than one letter on its left.`,
  "bad-generator.letter": (v) =>
    `Generator “${v.generator}”: “${v.letter}” is not the letter of a factor; letters are ${v.letters.join(", ")}.`,
  "bad-generator.number": (v) =>
    `${counted(v.generators, "generator")} leave ${counted(v.runs, "trial")} for ${counted(v.factors, "factor")}; give from 1 to ${written(v.most)}.`,
  "bad-generator.right": (v) => `Generator “${v.part}” names a letter twice on its right.`,
  "bad-generator.twice": () => "The generators give one factor twice; give each once.",
  "bad-generator.unreadable": (v) => `Generator “${v.part}” cannot be read; write it like E=ABC or F=-BCD.`,
  "bad-hold.level": (v) => `${v.factor} cannot be held at “${v.level}”; it has ${v.levels.join(", ")}.`,
  "bad-hold.range": (v) =>
    `${v.factor} cannot be held at ${v.value}; hold it between ${written(v.least)} and ${withUnit(String(v.most), v.unit)}.`,
  "bad-hold.unknown": (v) => `There is no factor “${v.id}” to hold; the factors are ${v.factors.join(", ")}.`,
  "bad-keep": (v) => `The share of D-efficiency to keep is ${written(v.keep)}; give a number above 0 and up to 1.`,
  "bad-levels.number": (v) => `Levels “${v.levels}”: give a whole number from 2 to ${written(v.most)}.`,
  "bad-levels.own": (v) =>
    `Levels “${v.part}”: ${v.factor} has its own ${v.category ? "levels" : "listed values"}; all of them are used.`,
  "bad-levels.unknown": (v) => `Levels “${v.part}”: there is no factor “${v.name}” in this study.`,
  "bad-option": (v) => `The option ${v.option} of ${v.family} cannot be read: ${v.why}.`,
  "bad-roles.heading": (v) => `The sheet has no column “${v.heading}”; its columns are ${v.headings.join(", ")}.`,
  "bad-roles.role": (v) =>
    `“${v.role}” is nothing that a column can be (${v.heading}); it can be ${v.roles.join(", ")}.`,
  "bad-roles.shape": (v) =>
    `The file ${v.path} does not say what columns are; write an object like {"Heat (°C)": "factor"}.`,
  "bad-settings": (v) => `${v.flag} must be an object of settings, like '{"temp":60}'.`,
  "bad-shape.choice": (v) => `${v.place} is ${v.value}, which is not one of the choices there.`,
  "bad-shape.value": (v) => `${v.place} is ${v.value}: ${remedyText(v.remedy)}.`,
  "bad-step": (v) => `The step is ${written(v.step)}; give a number above 0.`,
  "bad-terms.file": (v) => `The file ${v.text} does not hold a JSON array of terms, each an array of factor ids.`,
  "bad-terms.neither": (v) =>
    `Terms “${v.text}” are neither main, main+2fi, quadratic, letters of factors like A,C,AC, nor a file that can be read.`,
  "bad-transform": (v) =>
    `Trial ${v.trial} has the value ${written(v.value)}, which the ${v.scale} scale does not take; choose another scale.`,
  "bad-version": () => "The study file's version is not a whole number; it was not written by this program.",
  bounds: (v) =>
    `${v.response}: the physical minimum (${written(v.min)}) must be below the maximum (${written(v.max)}).`,
  "cannot-estimate": () =>
    "No set of trials in this region can estimate every term asked; take terms out or widen the region.",
  "cannot-write": (v) => `The file ${v.file} cannot be written.`,
  "category-in-limit": (v) =>
    `${v.factor} is a category and cannot stand in a linear limit; forbid a combination instead.`,
  "category-squared": (v) => `${v.place}: ${v.factor} is a category and has no square.`,
  "constant-within-setups": (v) =>
    `${v.response} is the same in all trials of each of ${counted(v.setups, "set-up")}, so nothing tells how trials of one differ. Measured once a set-up, keep it in one trial of each; else give every trial its own result.`,
  "constant-response": (v) => `${v.response} is ${written(v.value)} in every trial; there is nothing to explain.`,
  "counted-all": (v) =>
    `${v.response}: every piece of every trial was counted, so that nothing tells the trials apart; count what is rarer, or go where it is.`,
  "counted-goal": (v) =>
    v.share
      ? `${v.response} is a share: its ${v.what} (${written(v.value)}) must lie between 0 and 1, as 0.02 for 2 %.`
      : `${v.response} is a count: its ${v.what} (${written(v.value)}) must not be below 0.`,
  "counted-none": (v) =>
    `${v.response}: nothing was counted in any trial, so that nothing tells the trials apart; count more pieces, or go where it happens.`,
  "counted-result": (v) => `${v.place === null ? "" : `${v.place}: `}${v.response}: ${countedFaultText(v.fault)}.`,
  "counted-spread": (v) =>
    `${v.response} cannot be the spread of ${v.of}, which is counted; a share or a count says itself how far it scatters.`,
  "counted-transform": (v) =>
    `${v.response} is a ${v.share ? "share" : "count"} and is fitted on the ${v.share ? "logit" : "logarithm"} already; leave the scale as it is.`,
  "counted-what": (v) =>
    `${v.response} is a measured value: “${v.key}” belongs to a share or a count; take it out, or say how it is measured.`,
  "covariate-term.alone": (v) => `${v.place}: the covariate ${v.covariate} can only stand alone in a model.`,
  "covariate-term.plan": (v) => `${v.term} is measured, not set; a plan cannot be built for it.`,
  "duplicate.listed": (v) => `${v.factor} lists the value ${written(v.value)} twice; list each once.`,
  "duplicate.model": (v) => `Response “${v.response}” has two models; keep one.`,
  "duplicate.order": (v) => `${v.place}: run order ${written(v.order)} is used twice; each trial has its own.`,
  "duplicate.term": (v) => `${v.place} names ${v.term ?? "the constant"} a second time.`,
  "duplicate.value": (v) => `${v.what} “${v.value}” is used twice; give each its own.`,
  "edit-conflict.changed": (v) => `What stood at ${v.place} has changed elsewhere meanwhile.`,
  "edit-conflict.removed": (v) => `What stood at ${v.place} has been removed elsewhere meanwhile.`,
  "empty-backup": () => "The backup holds no studies.",
  "empty-limit.combination": (v) => `${v.place} names no factor; a combination needs at least one.`,
  "empty-limit.limit": (v) => `${v.place} names no factor; name at least one.`,
  "empty-region.limits": () =>
    "No point was found that keeps every limit and forbidden combination; take one away or widen its bound.",
  "empty-region.plan": () => "The region excludes every trial of this plan; widen its limits.",
  "empty-region.setpoint": () => "No settings are allowed with what is held; loosen the limits or hold less.",
  "empty-region.wave": () => "The region excludes every trial of this wave; widen its limits or choose another wave.",
  "empty-sheet.cells": () => "The cells of this sheet are all empty; copy those that hold something.",
  "empty-sheet.text": () => "There is no text to read; copy the cells in the spreadsheet first.",
  "family-unfit": (v) => formatMessage(unfits, v.why),
  "fold-over-idle": (v) =>
    `Every word of this plan (${v.words.join(", ")}) holds an even number of the factors turned, so turning them gives the same trials again; turn one factor alone.`,
  forbidden: (v) => `${v.place}: from (${written(v.from)}) lies above to (${written(v.to)}).`,
  "goal.low": (v) => `${v.response}: in its goal, low (${written(v.low)}) must be below high (${written(v.high)}).`,
  "goal.target": (v) =>
    `${v.response}: the target (${written(v.target)}) must lie between ${written(v.low)} and ${written(v.high)}.`,
  "hard-limit.lower": (v) =>
    `${v.factor}: the hard lower limit (${written(v.hard)}) lies above low (${written(v.low)}).`,
  "hard-limit.upper": (v) =>
    `${v.factor}: the hard upper limit (${written(v.hard)}) lies below high (${written(v.high)}).`,
  "log-of-nothing.range": (v) => `${v.factor} is on a log scale, so low must be above 0.`,
  "log-of-nothing.setting": (v) => `${v.place}: ${v.factor} is on a log scale and cannot be ${written(v.value)}.`,
  "log-of-nothing.values": (v) => `${v.factor} is on a log scale, so its values must be above 0.`,
  "low-not-below-high": (v) => `${v.factor}: low (${written(v.low)}) must be below high (${written(v.high)}).`,
  "missing.augmentation": () => "An augmentation needs a number of trials to add.",
  "missing.carried": () => "Name the active factors to carry on, such as --factors A,B,D.",
  "missing.key": (v) => `${v.place} is missing; it is needed.`,
  "missing.reduce": (v) => `“${v.option}” says how to reduce a model; give reduce with it (backward, forward or both).`,
  "missing.revision": () => "This changes the study; send the revision it was made on with it.",
  "missing.setting": (v) => `${v.place} has no setting for ${v.factor} (${v.id}).`,
  "missing.stray": (v) => `“${v.option}” is not an option of ${v.kind}.`,
  "missing.two": (v) =>
    `Give two of effect, power and replicates with a response that is counted, and no noise; ${written(v.given)} of the three ${v.given === 1 ? "is" : "are"} given.`,
  "missing.three": (v) =>
    `Give three of effect, noise, power and replicates (or all four without alpha); ${written(v.given)} were given.`,
  "missing.trials": (v) =>
    `A plan of the family ${v.family} needs a number of trials${v.generators ? " (or generators)" : ""}.`,
  "newer-version": (v) =>
    `The study file is of version ${written(v.version)}, newer than version ${written(v.reads)} which this program reads; update it first.`,
  "no-centre.categories": () =>
    "Centre points need a numeric factor; this study has categories only. Ask for replicates instead.",
  "no-centre.region": () => "The region excludes the centre; ask for no centre points.",
  "no-centre.two-values": (v) =>
    `Centre points need a middle for every numeric factor; ${v.factor} has only two values. Ask for replicates instead.`,
  "no-hard-factor": () =>
    "Set-ups are asked for, but no factor is hard to change; say on Question which one is, or leave set-ups out.",
  "too-few-setups": (v) =>
    `${counted(v.asked, "set-up")} cannot hold this plan: its settings of the hard factors need ${written(v.least)}${v.size === null ? "" : ` of up to ${counted(v.size, "trial")}`}. Ask for ${written(v.least)} or more.`,
  "no-base": (v) =>
    v.counted
      ? `${v.response}: power needs the share or rate expected with every factor in its middle (“base”) and the usual pieces or exposure of a trial (“of”); state both.`
      : `${v.response} is a measured value; give its effect and its noise in place of its name.`,
  "no-confirmation": () => "This study has no confirmation trials; plan some first (a next wave of the kind confirm).",
  "no-corners": () => "No wave of at least four corner trials is there to turn; plan a two-level wave first.",
  "no-error-df": () =>
    "These trials leave no degrees of freedom for error, so there is no power to speak of; add trials or replicates.",
  "no-factors": () => "This study has no factors yet; add at least two.",
  "no-file": (v) => `The file ${v.file} cannot be read; check its name.`,
  "too-large.model": (v) =>
    `This model is too large to be followed as you work (${counted(v.trials, "trial")}, ${counted(v.terms, "term")}): take terms out, or fit it by the headless command.`,
  "too-large.models": (v) =>
    `The models of this study are together too large to be followed as you work (${counted(v.trials, "trial")}, ${counted(v.terms, "term")} here): take terms, rivals or models out, or fit them by the headless command.`,
  "no-goals": () => "No response has a goal yet; say which to raise, lower or keep within limits.",
  "no-half": () => "This fold-over has no factor that splits it in halves; run all of it.",
  "no-match-column.factors": (v) =>
    `The sheet has no column for ${v.factors.join(", ")}; each factor needs one, headed by its name or id.`,
  "no-match-column.trials": (v) =>
    `The sheet has neither a trial number (a column “order”) nor a column for every factor (${v.factor} is missing), so its rows cannot be matched to trials.`,
  "no-middle.factor": (v) => `${v.factor} has no middle, so it takes no axial points; leave it out.`,
  "no-middle.study": () => "Axial points need a numeric factor with a middle; this study has none.",
  "no-model.any": () => "No response has a stored model yet; choose the terms of one first.",
  "no-model.path": () => "A path of steepest ascent needs a model; choose the terms of one first.",
  "no-model.response": (v) => `There is no model yet for ${v.responses.join(", ")}; choose its terms first.`,
  "no-path": () => "There is no path of steepest ascent to run: the model is level, or its first step already ends it.",
  "no-path.range": (v) =>
    `The path leaves the ranges: its next step would set ${listed(v.factors.map((f) => `${f.name} to ${withUnit(figure(f.next, 4), f.unit)}, a few more to ${withUnit(figure(f.to, 4), f.unit)}`))}. Say how far ${v.factors.length === 1 ? "it" : "each"} can be set, as a hard limit, and it is planned up to there.`,
  "no-possible": () =>
    "Every possible term is in the model already, so there is nothing to keep clear of; name other possible terms.",
  "no-results-column": (v) =>
    `No column is named for a response; the first row must hold headings such as ${v.responses.join(", ") || "the responses' names"}.`,
  "no-results.confirmation": () =>
    "No confirmation trial has a result of a response with a model yet; enter some first.",
  "no-results.response": (v) => `${v.response} has no results that count yet; enter some first.`,
  "no-rows.empty": () => "The sheet holds headings but no trials.",
  "no-rows.problem": (v) => v.problem,
  "no-setpoint.confirm": () => "There is no setpoint to confirm yet; choose one first, or say at which settings (at).",
  "no-setpoint.impossible": () => "No settings meet every limit at all, so there is no setpoint to choose.",
  "no-spread": (v) =>
    v.repeats
      ? `${v.source} was not measured twice in any trial; enter repeats, or take the spread from trials run again.`
      : `No two trials of a wave ran at the same settings, so ${v.source} has no spread between them; run some again.`,
  "no-trials.appraise": () => "There are no trials to appraise; plan some first.",
  "no-trials.follow": () => "There are no trials to follow up; plan a first wave.",
  "no-trials.power": () => "There are no trials to judge; plan some first.",
  "no-trials.repeat": () => "No trial that counts can be repeated.",
  "not-a-fraction": (v) =>
    `${v.wave} is not a regular fraction, so no fraction of its family is missing; a fold-over or an augmentation would part its effects.`,
  "not-categories": (v) =>
    `${v.factor} ran at ${counted(v.settings, "setting")}; two to ${v.most} can be read as categories.`,
  "not-a-number.retired": (v) => `${v.factor} is retired at “${v.value}”; give a number.`,
  "not-a-number.setting": (v) => `${v.place}: ${v.factor} takes a number, not ${v.value}.`,
  "not-a-study.format": (v) => `This is not a study file: its format is not “${v.format}”.`,
  "not-a-study.top": () => "This is not a study file: it holds no object at its top.",
  "not-json": notJson,
  "not-text": () => "This is not plain text but a binary file; save the sheet as CSV first.",
  "nothing-new.carry": (v) =>
    `${v.served} ${verb(v.served, "trial", "trials")} already run ${verb(v.served, "is", "are")} all that this plan of ${listed(v.factors)} asks for; choose another plan or more trials.`,
  "nothing-settable": () =>
    "No settable point lies within two steps of an optimum and inside the region; check steps and limits.",
  "nothing-to-estimate": () => "These trials cannot estimate any of the terms asked.",
  "one-level": (v) =>
    `The region leaves ${v.factor} only ${v.level === null ? "one value" : `the level ${v.level}`}, so its effect cannot be planned for; retire it or widen the region.`,
  "option-not-taken": (v) =>
    `${v.family} (${v.id}) takes no “${v.option}”; besides counts, order and seed it takes ${v.takes.length === 0 ? "no others" : v.takes.join(", ")}.`,
  "power-question.above-zero": (v) => `${v.name} is ${written(v.value)}; give a number above 0.`,
  "power-question.alpha": () => "Give α, or all of effect, noise, power and replicates to have α worked out.",
  "power-question.power": (v) =>
    `Power is ${written(v.power)}; give a number between ${v.alpha === null ? 0 : `α (${written(v.alpha)})`} and 1.`,
  "power-question.replicates": (v) =>
    `Replicates is ${written(v.replicates)}; give a whole number up to ${grouped(v.most)}.`,
  "power-question.three": (v) => `Give three of effect, noise, power and replicates; ${written(v.given)} were given.`,
  "program-answer.missing": (v) =>
    `The answer says nothing of ${listed(v.responses)}; each response of the study is needed.`,
  "program-answer.not-number": (v) => `The answer gives ${v.name} as ${v.value}, which is no number.`,
  "program-answer.nothing": () => "The answer is empty; print lines of name=value, or one JSON object.",
  "program-answer.too-long": (v) =>
    `The answer is longer than ${v.most === 1 ? "one character" : `${grouped(v.most)} characters`}; print the results alone.`,
  "program-answer.too-many": (v) =>
    `The answer gives ${grouped(v.values)} values of ${v.name}; a trial holds at most ${grouped(v.most)}.`,
  "program-answer.twice": (v) => `The answer says ${v.name} twice; say it once, several values as a list.`,
  "program-answer.two": () => "The program answered more than once; print one answer a trial.",
  "program-answer.unknown": (v) =>
    `The answer names “${v.name}”, which is no response of this study; its responses are ${v.responses.join(", ")}.`,
  "program-answer.unreadable": (v) => `The answer “${v.text}” is neither lines of name=value nor one JSON object.`,
  retired: (v) => `${v.place}: ${v.factor} is retired; bring it back before using it in a model.`,
  "rig-unfit.number": (v) => `The ${v.rig} rig takes a number for ${v.factor}.`,
  "rig-unfit.study": (v) => formatMessage(unfits, v.why),
  "run-held": (v) => `Another run is at ${v.file} (process ${v.pid}); let it end, or stop it first.`,
  "same-heading": (v) =>
    `The heading ${sameText(v.headings)} (columns ${v.columns[0]} and ${v.columns[1]}), so one column would be lost. Rename one of them, or take it out of the sheet; nothing was taken.`,
  "no-workbook": () =>
    "This is no xlsx workbook, or it is damaged. Save it anew as an xlsx workbook, or its sheet as CSV.",
  "workbook-locked": () =>
    "This workbook is of an older kind than xlsx, or locked by a password. Save it as an xlsx workbook without one, or its sheet as CSV.",
  "workbook-too-large": (v) =>
    `The workbook holds ${grouped(v.megabytes)} MB; at most ${grouped(v.most)} are read. Save the sheet with the results alone.`,
  "sheet-too-far": (v) =>
    `The sheet “${v.sheet}” has something at ${v.at}; sheets are read to ${grouped(v.rows)} rows and ${grouped(v.columns)} columns. Delete what stands beyond, cells that are only coloured too, and save it anew.`,
  "sheet-too-far.cells": (v) =>
    `The sheet “${v.sheet}” spans ${grouped(v.rows)} rows and ${grouped(v.columns)} columns; at most ${grouped(v.cells)} cells are read, empty ones too. Delete what stands far from the results, and save it anew.`,
  "odd-key": (v) =>
    `“${v.key}” cannot be a name here: programs keep that word for themselves, or it holds half a letter. Rename it.`,
  "odd-text": (v) =>
    `The text ${v.place === "" ? "" : `at ${v.place} `}holds half a letter (a lone surrogate), which cannot be kept. Write it anew.`,
  "no-sheet": (v) => `The workbook has no sheet “${v.sheet}”; it has ${v.sheets.map((x) => `“${x}”`).join(", ")}.`,
  "short-word": (v) =>
    `These generators make the word ${v.word}, which would confound main effects with each other; choose longer ones.`,
  "setup.apart": (v) =>
    `Set-up ${v.setup} of ${v.wave} is left and comes back at trial ${v.order}; a set-up's trials follow each other: give what comes later a number of its own.`,
  "setup.changes": (v) =>
    `${v.factor} is hard to change, yet trial ${v.order} sets it otherwise within set-up ${v.setup} of ${v.wave}; begin another set-up there, or call the factor easy to change.`,
  "setup.part": (v) =>
    `Trial ${v.order} has no set-up, though others of ${v.wave} have one; number all trials of a wave or none.`,
  "spread-result": (v) => `${v.place}: “${v.id}” is worked out from another response and takes no results.`,
  "step-too-large": (v) =>
    `${v.factor}: the step (${written(v.step)}) is larger than the range from ${written(v.low)} to ${written(v.high)}.`,
  "step-too-small": (v) =>
    `${v.factor}: the step (${written(v.step)}) cuts the range into more than a million positions; use a larger one.`,
  "too-deep": (v) => `Brackets stand more than ${written(v.most)} deep in one another; no study needs that.`,
  "too-few-levels": (v) =>
    `${v.factor} has ${written(v.values)} values, too few for its power in the model; take that term out.`,
  "too-few-results": (v) => `${v.response} has one result; at least two are needed to fit anything.`,
  "too-few-trials": (v) =>
    `This model has ${counted(v.columns, "column")}${v.carried === null ? "" : `, of which the runs that stand carry ${written(v.carried)}`}; ${counted(v.trials, "trial")} cannot estimate it, at least ${written(v.least)} can.`,
  "too-large.file": (v) =>
    `The file holds ${Math.round(v.characters / 1e6)} million characters; the most is ${v.most / 1e6} million.`,
  "too-large.rows": (v) => `The text holds ${counted(v.rows, "row")}; the most is ${written(v.most)}.`,
  "too-large.search": (v) =>
    `A search over ${counted(v.trials, "trial")}, ${counted(v.factors, "factor")} and ${counted(v.columns, "column")} is too large; ask for fewer trials or terms.`,
  "too-large.text": (v) =>
    `The text holds ${(v.characters / 1e6).toFixed(1)} million characters; the most is ${v.most / 1e6} million.`,
  "too-many-combinations": (v) =>
    `Levels and listed values make more than ${written(v.most)} combinations; hold some factors.`,
  "too-many-replicates": (v) =>
    `More than ${grouped(v.most)} replicates would be needed; the effect is too small for this noise.`,
  "too-many-terms.plan": (v) =>
    `That model has ${counted(v.columns, "column")}; a plan can be built for at most ${written(v.most)}. Ask for fewer terms.`,
  "too-many-terms.possible": (v) =>
    `${written(v.terms)} possible terms are more than a search can hold; name at most ${written(v.most)}.`,
  "too-many-terms.subsets": (v) =>
    `${written(v.terms)} candidate terms are more than all subsets can be searched of; name at most ${written(v.most)}.`,
  "too-many-trials.factorial": (v) =>
    `A full factorial of these levels takes ${counted(v.runs, "trial")}; ask for fewer levels.`,
  "too-many-trials.plan": (v) => `That makes ${counted(v.trials, "trial")}; the most is ${written(v.most)}.`,
  "unknown-example": (v) => `There is no example “${v.name}”; the examples are ${v.examples.join(", ")}.`,
  "unknown-family": (v) => `There is no plan family “${v.family}”; the families are ${v.families.join(", ")}.`,
  "unknown-id.covariate": (v) => `${v.place}: there is no covariate “${v.id}”.`,
  "unknown-id.factor": (v) => `${v.place}: there is no factor “${v.id}” in this study.`,
  "unknown-id.factor-in-use": (v) => `There is no factor “${v.name}” in use; the factors are ${v.factors.join(", ")}.`,
  "unknown-id.response": (v) =>
    `There is no response “${v.id}”; ${v.responses.length === 0 ? "this study has none yet" : `the responses are ${v.responses.join(", ")}`}.`,
  "unknown-id.response-at": (v) => `${v.place}: there is no response “${v.id}”.`,
  "unknown-id.spread": (v) =>
    `${v.response} is the spread of “${v.of}”, which is not a measured response of this study.`,
  "unknown-id.term": (v) => `${v.place}: there is no factor or covariate “${v.id}”.`,
  "unknown-id.trial": (v) => `There is no trial “${v.id}” to repeat.`,
  "unknown-id.trial-of-study": (v) => `There is no trial “${v.id}” in this study.`,
  "unknown-id.wave": (v) => `${v.place}: there is no wave “${v.id}”.`,
  "unknown-key": (v) => `${v.place} is not a key this version knows; remove it or correct its spelling.`,
  "unknown-level.list": (v) => `${v.place}: ${v.factor} is a category; list its levels.`,
  "unknown-level.retired": (v) => `${v.factor} is retired at “${v.level}”, which is not one of its levels.`,
  "unknown-level.value": (v) => `${v.place}: ${v.factor} has no level ${v.value}; it has ${v.levels.join(", ")}.`,
  "unknown-question": (v) => `There is no question “${v.id}”; there are ${v.questions.join(", ")}.`,
  "unknown-rig": (v) => `There is no rig “${v.rig}”; the rigs are ${v.rigs.join(", ")}.`,
  unreachable: () => "An augmentation is built for a model.",
  unreadable: () => "Something in it has a “length” and is no text or list; write it as one.",
  "wide-category.all": () => "No factor has just two ends to turn.",
  "wide-category.factor": (v) =>
    `${v.factor} has more than two levels, so it has no opposite; name the factors to turn without it.`,
  "wrong-place": (v) => `The model is of “${v.of}”, its address of “${v.response}”.`,
};
