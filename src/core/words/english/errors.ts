import type { CountedFault } from "../../study/measured";
import { counted, figure, fixed, grouped, listed, withUnit, written } from "../numbers";
import { type Said, type ValuesOf, worded } from "../said";
import { countedFaultText } from "./counted";
import { inWords, notOne, verb } from "./parts";
import { type UnfitValues, unfits } from "./remarks";

/** What would do in place of what was given. */
export type Remedy =
  | { do: "lengthen"; least: number }
  | { do: "shorten"; most: number; text: boolean }
  | { do: "raise" | "lower"; bound: number; inclusive: boolean }
  | { do: "choose"; of: string[] }
  | { do: "write"; what: string }
  /** By a rule of a schema. */
  | { do: "follow"; rule: Rule };

/** Rules of schemas beside kinds, lengths and bounds. */
export type Rule = keyof typeof ruleWords;

const WANTED: Record<string, string> = {
  int: "a whole number",
  number: "a number",
  string: "text",
  boolean: "true or false",
  array: "a list",
  object: "an object",
  record: "an object",
};

export const ruleWords = {
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

/** What a text should have been that is not JSON; `name` of a file or a flag where it has one. */
export interface NotJson {
  of: "study-file" | "terms" | "settings" | "body";
  name: string;
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
export const errors = {
  "absurd-number": (v: { place: string }) => `${v.place} is not a usable number; keep it within ±10¹⁵.`,
  "all-run": (_: object) => "Every fraction of this family has been run.",
  "axial-too-far": (v: { alpha: number; factor: string; distance: number }) =>
    `Axial points at ${fixed(v.alpha, 3)} half-ranges lie outside what ${v.factor} can be run at (${fixed(v.distance, 3)}); use face, or a number up to that.`,
  "bad-alpha": (v: { alpha: number }) => `α is ${written(v.alpha)}; give a number between 0 and 1.`,
  "bad-axial": (v: { asked: string }) =>
    `The axial distance “${v.asked}” cannot be read; give rotatable, spherical, face, orthogonal-blocks, or a number from above 0 to 10.`,
  "bad-blocks.box-behnken": (v: { factors: number; orthogonal: number | null; blocks: number }) =>
    v.orthogonal === null
      ? "Box–Behnken of three factors has no orthogonal blocks; run it in one."
      : `Box–Behnken of ${inWords(v.factors)} factors splits into ${inWords(v.orthogonal)} orthogonal blocks, not ${written(v.blocks)}.`,
  "bad-blocks.composite-two": (_: object) =>
    "The corners of a two-factor composite cannot be split: use two blocks, corners and axial points.",
  "bad-blocks.family": (v: { family: string }) =>
    `${v.family} plans are not split into blocks; ask for as many replicates as blocks, and each copy is a block.`,
  "bad-blocks.interaction": (v: { corners: number; blocks: number }) =>
    `The ${counted(v.corners, "corner")} cannot be split into ${counted(v.blocks, "block")} without losing an interaction; use fewer blocks.`,
  "bad-blocks.main-effect": (v: { trials: number; blocks: number }) =>
    `${counted(v.trials, "trial")} cannot be split into ${counted(v.blocks, "block")} without losing a main effect; use fewer blocks.`,
  "bad-blocks.powers": (v: { trials: number; blocks: number }) =>
    `${written(v.trials)} two-level trials split into 2, 4, 8 … blocks of at least two; ${written(v.blocks)} is not one of them.`,
  "bad-blocks.replicates": (_: object) =>
    "Blocks by confounding need two levels of every factor; ask for as many replicates as blocks, each a block.",
  "bad-blocks.too-few": (v: { trials: number; blocks: number }) =>
    `${counted(v.trials, "trial")} cannot fill ${counted(v.blocks, "block")}.`,
  "bad-blocks.two-levels": (_: object) =>
    "Blocks by confounding need two levels of every factor; run the plan in one block.",
  "bad-count.array": (v: { sizes: number[]; trials: number | null }) =>
    v.sizes.length === 0
      ? "No orthogonal array up to 36 trials has columns for these factors at these levels."
      : `Orthogonal arrays for these factors have ${v.sizes.join(", ")} trials; ${notOne(v.trials)}.`,
  "bad-count.between": (v: { name: string; value: number; least: number; most: number }) =>
    `${v.name} is ${written(v.value)}; give a whole number from ${written(v.least)} to ${written(v.most)}.`,
  "bad-count.box-behnken": (v: { size: number; trials: number }) =>
    `Box–Behnken with these factors has ${counted(v.size, "trial")} and centre points besides, not ${written(v.trials)}.`,
  "bad-count.centre": (v: { n: number }) =>
    `The number of centre points is ${written(v.n)}; give a whole number from 1 to 200.`,
  "bad-count.centre-blocks": (v: { centre: number; corners: number; fewer: number; more: number }) =>
    `With ${written(v.centre)} centre points the ${counted(v.corners, "block")} of corners hold different numbers of them, and no axial distance makes the blocks orthogonal; ask for ${written(v.fewer)} or ${written(v.more)}.`,
  "bad-count.centre-copies": (_: object) =>
    "The copies would hold different numbers of centre points, and no axial distance makes all their blocks orthogonal; ask for as many as divide by the number of blocks.",
  "bad-count.composite": (v: { sizes: number[]; trials: number }) =>
    `A central composite plan of these factors has ${v.sizes.join(" or ")} trials and centre points besides, not ${written(v.trials)}.`,
  "bad-count.definitive": (v: { factors: number; sizes: number[]; trials: number | null }) =>
    `Definitive screening of these ${counted(v.factors, "factor")} has ${v.sizes.join(", ")} trials; ${notOne(v.trials)}.`,
  "bad-count.factorial": (v: { factors: number; runs: number; trials: number }) =>
    `A full factorial of these ${counted(v.factors, "factor")} has ${counted(v.runs, "trial")}, not ${written(v.trials)}.`,
  "bad-count.follow": (v: { what: string; n: number; most: number }) =>
    `${v.what} is ${written(v.n)}; give a whole number from 1 to ${written(v.most)}.`,
  "bad-count.fraction": (v: { factors: number; sizes: number[]; trials: number }) =>
    `A regular fraction of ${counted(v.factors, "factor")} has ${v.sizes.join(", ")} trials; ${notOne(v.trials)}.`,
  "bad-count.generators": (v: { runs: number; trials: number }) =>
    `These generators make ${counted(v.runs, "trial")}, not ${written(v.trials)}.`,
  "bad-count.hadamard": (v: { trials: number; sizes: number[] }) =>
    `There is no Plackett–Burman plan in ${counted(v.trials, "trial")}; sizes are ${v.sizes.join(", ")}.`,
  "bad-count.most": (v: { name: string; value: number; most: number }) =>
    `${v.name} is ${written(v.value)}; the most is ${written(v.most)}.`,
  "bad-count.no-array": (v: { trials: number }) =>
    `There is no orthogonal array of these factors in ${counted(v.trials, "trial")}.`,
  "bad-count.no-fraction": (v: { factors: number; runs: number }) =>
    `There is no regular fraction of ${counted(v.factors, "factor")} in ${counted(v.runs, "trial")}.`,
  "bad-count.plackett-burman": (v: { factors: number; sizes: number[]; folded: boolean; trials: number | null }) =>
    `A Plackett–Burman plan of ${counted(v.factors, "factor")} has ${v.sizes.join(", ")} trials${v.folded ? " folded over" : ""}; ${notOne(v.trials)}.`,
  "bad-count.say-fraction": (v: { sizes: number[] }) => `Say how many trials: ${v.sizes.join(", ")}.`,
  "bad-count.say-optimal": (v: { columns: number; least: number }) =>
    `Say how many trials: this model has ${counted(v.columns, "column")}, so at least ${written(v.least)}.`,
  "bad-edit.order": (v: { list: string }) => `The new order of ${v.list} must hold the same members.`,
  "bad-edit.place": (v: { place: string }) => `There is nothing to edit at ${v.place}.`,
  "bad-generator.generated": (v: { factor: string; other: string }) =>
    `The generator of ${v.factor} uses ${v.other}, which is generated itself; use base factors only.`,
  "bad-generator.left": (v: { part: string }) => `Generator “${v.part}” has more than one letter on its left.`,
  "bad-generator.letter": (v: { generator: string; letter: string; letters: string[] }) =>
    `Generator “${v.generator}”: “${v.letter}” is not the letter of a factor; letters are ${v.letters.join(", ")}.`,
  "bad-generator.number": (v: { generators: number; runs: number; factors: number; most: number }) =>
    `${counted(v.generators, "generator")} leave ${counted(v.runs, "trial")} for ${counted(v.factors, "factor")}; give from 1 to ${written(v.most)}.`,
  "bad-generator.right": (v: { part: string }) => `Generator “${v.part}” names a letter twice on its right.`,
  "bad-generator.twice": (_: object) => "The generators give one factor twice; give each once.",
  "bad-generator.unreadable": (v: { part: string }) =>
    `Generator “${v.part}” cannot be read; write it like E=ABC or F=-BCD.`,
  "bad-hold.level": (v: { factor: string; level: string; levels: string[] }) =>
    `${v.factor} cannot be held at “${v.level}”; it has ${v.levels.join(", ")}.`,
  "bad-hold.range": (v: { factor: string; value: string; least: number; most: number; unit: string }) =>
    `${v.factor} cannot be held at ${v.value}; hold it between ${written(v.least)} and ${withUnit(String(v.most), v.unit)}.`,
  "bad-hold.unknown": (v: { id: string; factors: string[] }) =>
    `There is no factor “${v.id}” to hold; the factors are ${v.factors.join(", ")}.`,
  "bad-keep": (v: { keep: number }) =>
    `The share of D-efficiency to keep is ${written(v.keep)}; give a number above 0 and up to 1.`,
  "bad-levels.number": (v: { levels: string; most: number }) =>
    `Levels “${v.levels}”: give a whole number from 2 to ${written(v.most)}.`,
  "bad-levels.own": (v: { part: string; factor: string; category: boolean }) =>
    `Levels “${v.part}”: ${v.factor} has its own ${v.category ? "levels" : "listed values"}; all of them are used.`,
  "bad-levels.unknown": (v: { part: string; name: string }) =>
    `Levels “${v.part}”: there is no factor “${v.name}” in this study.`,
  "bad-option": (v: { option: string; family: string; why: string }) =>
    `The option ${v.option} of ${v.family} cannot be read: ${v.why}.`,
  "bad-roles.heading": (v: { heading: string; headings: string[] }) =>
    `The sheet has no column “${v.heading}”; its columns are ${v.headings.join(", ")}.`,
  "bad-roles.role": (v: { heading: string; role: string; roles: string[] }) =>
    `“${v.role}” is nothing that a column can be (${v.heading}); it can be ${v.roles.join(", ")}.`,
  "bad-roles.shape": (v: { path: string }) =>
    `The file ${v.path} does not say what columns are; write an object like {"Heat (°C)": "factor"}.`,
  "bad-settings": (v: { flag: string }) => `${v.flag} must be an object of settings, like '{"temp":60}'.`,
  "bad-shape.choice": (v: { place: string; value: string }) =>
    `${v.place} is ${v.value}, which is not one of the choices there.`,
  "bad-shape.value": (v: { place: string; value: string; remedy: Remedy }) =>
    `${v.place} is ${v.value}: ${remedyText(v.remedy)}.`,
  "bad-step": (v: { step: number }) => `The step is ${written(v.step)}; give a number above 0.`,
  "bad-terms.file": (v: { text: string }) =>
    `The file ${v.text} does not hold a JSON array of terms, each an array of factor ids.`,
  "bad-terms.neither": (v: { text: string }) =>
    `Terms “${v.text}” are neither main, main+2fi, quadratic, letters of factors like A,C,AC, nor a file that can be read.`,
  "bad-transform": (v: { trial: string; value: number; scale: string }) =>
    `Trial ${v.trial} has the value ${written(v.value)}, which the ${v.scale} scale does not take; choose another scale.`,
  "bad-version": (_: object) => "The study file's version is not a whole number; it was not written by this program.",
  bounds: (v: { response: string; min: number; max: number }) =>
    `${v.response}: the physical minimum (${written(v.min)}) must be below the maximum (${written(v.max)}).`,
  "cannot-estimate": (_: object) =>
    "No set of trials in this region can estimate every term asked; take terms out or widen the region.",
  "cannot-write": (v: { file: string }) => `The file ${v.file} cannot be written.`,
  "category-in-limit": (v: { factor: string }) =>
    `${v.factor} is a category and cannot stand in a linear limit; forbid a combination instead.`,
  "category-squared": (v: { place: string; factor: string }) =>
    `${v.place}: ${v.factor} is a category and has no square.`,
  "constant-within-setups": (v: { response: string; setups: number }) =>
    `${v.response} is the same in all trials of each of ${counted(v.setups, "set-up")}, so nothing tells how trials of one differ. Measured once a set-up, keep it in one trial of each; else give every trial its own result.`,
  "constant-response": (v: { response: string; value: number }) =>
    `${v.response} is ${written(v.value)} in every trial; there is nothing to explain.`,
  "counted-all": (v: { response: string }) =>
    `${v.response}: every piece of every trial was counted, so that nothing tells the trials apart; count what is rarer, or go where it is.`,
  "counted-goal": (v: { response: string; what: string; value: number; share: boolean }) =>
    v.share
      ? `${v.response} is a share: its ${v.what} (${written(v.value)}) must lie between 0 and 1, as 0.02 for 2 %.`
      : `${v.response} is a count: its ${v.what} (${written(v.value)}) must not be below 0.`,
  "counted-none": (v: { response: string }) =>
    `${v.response}: nothing was counted in any trial, so that nothing tells the trials apart; count more pieces, or go where it happens.`,
  "counted-result": (v: { place: string | null; response: string; fault: CountedFault }) =>
    `${v.place === null ? "" : `${v.place}: `}${v.response}: ${countedFaultText(v.fault)}.`,
  "counted-spread": (v: { response: string; of: string }) =>
    `${v.response} cannot be the spread of ${v.of}, which is counted; a share or a count says itself how far it scatters.`,
  "counted-transform": (v: { response: string; share: boolean }) =>
    `${v.response} is a ${v.share ? "share" : "count"} and is fitted on the ${v.share ? "logit" : "logarithm"} already; leave the scale as it is.`,
  "counted-what": (v: { response: string; key: string }) =>
    `${v.response} is a measured value: “${v.key}” belongs to a share or a count; take it out, or say how it is measured.`,
  "covariate-term.alone": (v: { place: string; covariate: string }) =>
    `${v.place}: the covariate ${v.covariate} can only stand alone in a model.`,
  "covariate-term.plan": (v: { term: string }) => `${v.term} is measured, not set; a plan cannot be built for it.`,
  "duplicate.listed": (v: { factor: string; value: number }) =>
    `${v.factor} lists the value ${written(v.value)} twice; list each once.`,
  "duplicate.model": (v: { response: string }) => `Response “${v.response}” has two models; keep one.`,
  "duplicate.order": (v: { place: string; order: number }) =>
    `${v.place}: run order ${written(v.order)} is used twice; each trial has its own.`,
  "duplicate.term": (v: { place: string; term: string | null }) =>
    `${v.place} names ${v.term ?? "the constant"} a second time.`,
  "duplicate.value": (v: { what: string; value: string }) => `${v.what} “${v.value}” is used twice; give each its own.`,
  "edit-conflict.changed": (v: { place: string }) => `What stood at ${v.place} has changed elsewhere meanwhile.`,
  "edit-conflict.removed": (v: { place: string }) => `What stood at ${v.place} has been removed elsewhere meanwhile.`,
  "empty-backup": (_: object) => "The backup holds no studies.",
  "empty-limit.combination": (v: { place: string }) => `${v.place} names no factor; a combination needs at least one.`,
  "empty-limit.limit": (v: { place: string }) => `${v.place} names no factor; name at least one.`,
  "empty-region.limits": (_: object) =>
    "No point was found that keeps every limit and forbidden combination; take one away or widen its bound.",
  "empty-region.plan": (_: object) => "The region excludes every trial of this plan; widen its limits.",
  "empty-region.setpoint": (_: object) => "No settings are allowed with what is held; loosen the limits or hold less.",
  "empty-region.wave": (_: object) =>
    "The region excludes every trial of this wave; widen its limits or choose another wave.",
  "empty-sheet.cells": (_: object) => "The cells of this sheet are all empty; copy those that hold something.",
  "empty-sheet.text": (_: object) => "There is no text to read; copy the cells in the spreadsheet first.",
  "family-unfit": (v: { why: Said<UnfitValues> }) => worded(unfits, v.why),
  "fold-over-idle": (v: { words: string[] }) =>
    `Every word of this plan (${v.words.join(", ")}) holds an even number of the factors turned, so turning them gives the same trials again; turn one factor alone.`,
  forbidden: (v: { place: string; from: number; to: number }) =>
    `${v.place}: from (${written(v.from)}) lies above to (${written(v.to)}).`,
  "goal.low": (v: { response: string; low: number; high: number }) =>
    `${v.response}: in its goal, low (${written(v.low)}) must be below high (${written(v.high)}).`,
  "goal.target": (v: { response: string; target: number; low: number; high: number }) =>
    `${v.response}: the target (${written(v.target)}) must lie between ${written(v.low)} and ${written(v.high)}.`,
  "hard-limit.lower": (v: { factor: string; hard: number; low: number }) =>
    `${v.factor}: the hard lower limit (${written(v.hard)}) lies above low (${written(v.low)}).`,
  "hard-limit.upper": (v: { factor: string; hard: number; high: number }) =>
    `${v.factor}: the hard upper limit (${written(v.hard)}) lies below high (${written(v.high)}).`,
  "log-of-nothing.range": (v: { factor: string }) => `${v.factor} is on a log scale, so low must be above 0.`,
  "log-of-nothing.setting": (v: { place: string; factor: string; value: number }) =>
    `${v.place}: ${v.factor} is on a log scale and cannot be ${written(v.value)}.`,
  "log-of-nothing.values": (v: { factor: string }) => `${v.factor} is on a log scale, so its values must be above 0.`,
  "low-not-below-high": (v: { factor: string; low: number; high: number }) =>
    `${v.factor}: low (${written(v.low)}) must be below high (${written(v.high)}).`,
  "missing.augmentation": (_: object) => "An augmentation needs a number of trials to add.",
  "missing.carried": (_: object) => "Name the active factors to carry on, such as --factors A,B,D.",
  "missing.key": (v: { place: string }) => `${v.place} is missing; it is needed.`,
  "missing.reduce": (v: { option: string }) =>
    `“${v.option}” says how to reduce a model; give reduce with it (backward, forward or both).`,
  "missing.revision": (_: object) => "This changes the study; send the revision it was made on with it.",
  "missing.setting": (v: { place: string; factor: string; id: string }) =>
    `${v.place} has no setting for ${v.factor} (${v.id}).`,
  "missing.stray": (v: { option: string; kind: string }) => `“${v.option}” is not an option of ${v.kind}.`,
  "missing.two": (v: { given: number }) =>
    `Give two of effect, power and replicates with a response that is counted, and no noise; ${written(v.given)} of the three ${v.given === 1 ? "is" : "are"} given.`,
  "missing.three": (v: { given: number }) =>
    `Give three of effect, noise, power and replicates (or all four without alpha); ${written(v.given)} were given.`,
  "missing.trials": (v: { family: string; generators: boolean }) =>
    `A plan of the family ${v.family} needs a number of trials${v.generators ? " (or generators)" : ""}.`,
  "newer-version": (v: { version: number; reads: number }) =>
    `The study file is of version ${written(v.version)}, newer than version ${written(v.reads)} which this program reads; update it first.`,
  "no-centre.categories": (_: object) =>
    "Centre points need a numeric factor; this study has categories only. Ask for replicates instead.",
  "no-centre.region": (_: object) => "The region excludes the centre; ask for no centre points.",
  "no-centre.two-values": (v: { factor: string }) =>
    `Centre points need a middle for every numeric factor; ${v.factor} has only two values. Ask for replicates instead.`,
  "no-hard-factor": (_: object) =>
    "Set-ups are asked for, but no factor is hard to change; say on Question which one is, or leave set-ups out.",
  "too-few-setups": (v: { asked: number; least: number; size: number | null }) =>
    `${counted(v.asked, "set-up")} cannot hold this plan: its settings of the hard factors need ${written(v.least)}${v.size === null ? "" : ` of up to ${counted(v.size, "trial")}`}. Ask for ${written(v.least)} or more.`,
  "no-base": (v: { response: string; counted: boolean }) =>
    v.counted
      ? `${v.response}: power needs the share or rate expected with every factor in its middle (“base”) and the usual pieces or exposure of a trial (“of”); state both.`
      : `${v.response} is a measured value; give its effect and its noise in place of its name.`,
  "no-confirmation": (_: object) =>
    "This study has no confirmation trials; plan some first (a next wave of the kind confirm).",
  "no-corners": (_: object) => "No wave of at least four corner trials is there to turn; plan a two-level wave first.",
  "no-error-df": (_: object) =>
    "These trials leave no degrees of freedom for error, so there is no power to speak of; add trials or replicates.",
  "no-factors": (_: object) => "This study has no factors yet; add at least two.",
  "no-file": (v: { file: string }) => `The file ${v.file} cannot be read; check its name.`,
  "too-large.model": (v: { trials: number; terms: number }) =>
    `This model is too large to be followed as you work (${counted(v.trials, "trial")}, ${counted(v.terms, "term")}): take terms out, or fit it by the headless command.`,
  "too-large.models": (v: { trials: number; terms: number }) =>
    `The models of this study are together too large to be followed as you work (${counted(v.trials, "trial")}, ${counted(v.terms, "term")} here): take terms, rivals or models out, or fit them by the headless command.`,
  "no-goals": (_: object) => "No response has a goal yet; say which to raise, lower or keep within limits.",
  "no-half": (_: object) => "This fold-over has no factor that splits it in halves; run all of it.",
  "no-match-column.factors": (v: { factors: string[] }) =>
    `The sheet has no column for ${v.factors.join(", ")}; each factor needs one, headed by its name or id.`,
  "no-match-column.trials": (v: { factor: string }) =>
    `The sheet has neither a trial number (a column “order”) nor a column for every factor (${v.factor} is missing), so its rows cannot be matched to trials.`,
  "no-middle.factor": (v: { factor: string }) =>
    `${v.factor} has no middle, so it takes no axial points; leave it out.`,
  "no-middle.study": (_: object) => "Axial points need a numeric factor with a middle; this study has none.",
  "no-model.any": (_: object) => "No response has a stored model yet; choose the terms of one first.",
  "no-model.path": (_: object) => "A path of steepest ascent needs a model; choose the terms of one first.",
  "no-model.response": (v: { responses: string[] }) =>
    `There is no model yet for ${v.responses.join(", ")}; choose its terms first.`,
  "no-path": (_: object) =>
    "There is no path of steepest ascent to run: the model is level, or its first step already ends it.",
  "no-path.range": (v: { factors: { name: string; unit: string; next: number; to: number }[] }) =>
    `The path leaves the ranges: its next step would set ${listed(v.factors.map((f) => `${f.name} to ${withUnit(figure(f.next, 4), f.unit)}, a few more to ${withUnit(figure(f.to, 4), f.unit)}`))}. Say how far ${v.factors.length === 1 ? "it" : "each"} can be set, as a hard limit, and it is planned up to there.`,
  "no-possible": (_: object) =>
    "Every possible term is in the model already, so there is nothing to keep clear of; name other possible terms.",
  "no-results-column": (v: { responses: string[] }) =>
    `No column is named for a response; the first row must hold headings such as ${v.responses.join(", ") || "the responses' names"}.`,
  "no-results.confirmation": (_: object) =>
    "No confirmation trial has a result of a response with a model yet; enter some first.",
  "no-results.response": (v: { response: string }) => `${v.response} has no results that count yet; enter some first.`,
  "no-rows.empty": (_: object) => "The sheet holds headings but no trials.",
  "no-rows.problem": (v: { problem: string }) => v.problem,
  "no-setpoint.confirm": (_: object) =>
    "There is no setpoint to confirm yet; choose one first, or say at which settings (at).",
  "no-setpoint.impossible": (_: object) => "No settings meet every limit at all, so there is no setpoint to choose.",
  "no-spread": (v: { source: string; repeats: boolean }) =>
    v.repeats
      ? `${v.source} was not measured twice in any trial; enter repeats, or take the spread from trials run again.`
      : `No two trials of a wave ran at the same settings, so ${v.source} has no spread between them; run some again.`,
  "no-trials.appraise": (_: object) => "There are no trials to appraise; plan some first.",
  "no-trials.follow": (_: object) => "There are no trials to follow up; plan a first wave.",
  "no-trials.power": (_: object) => "There are no trials to judge; plan some first.",
  "no-trials.repeat": (_: object) => "No trial that counts can be repeated.",
  "not-a-fraction": (v: { wave: string }) =>
    `${v.wave} is not a regular fraction, so no fraction of its family is missing; a fold-over or an augmentation would part its effects.`,
  "not-categories": (v: { factor: string; settings: number; most: number }) =>
    `${v.factor} ran at ${counted(v.settings, "setting")}; two to ${v.most} can be read as categories.`,
  "not-a-number.retired": (v: { factor: string; value: string }) =>
    `${v.factor} is retired at “${v.value}”; give a number.`,
  "not-a-number.setting": (v: { place: string; factor: string; value: string }) =>
    `${v.place}: ${v.factor} takes a number, not ${v.value}.`,
  "not-a-study.format": (v: { format: string }) => `This is not a study file: its format is not “${v.format}”.`,
  "not-a-study.top": (_: object) => "This is not a study file: it holds no object at its top.",
  "not-json": notJson,
  "not-text": (_: object) => "This is not plain text but a binary file; save the sheet as CSV first.",
  "nothing-new.carry": (v: { factors: string[]; served: number }) =>
    `${v.served} ${verb(v.served, "trial", "trials")} already run ${verb(v.served, "is", "are")} all that this plan of ${listed(v.factors)} asks for; choose another plan or more trials.`,
  "nothing-settable": (_: object) =>
    "No settable point lies within two steps of an optimum and inside the region; check steps and limits.",
  "nothing-to-estimate": (_: object) => "These trials cannot estimate any of the terms asked.",
  "one-level": (v: { factor: string; level: string | null }) =>
    `The region leaves ${v.factor} only ${v.level === null ? "one value" : `the level ${v.level}`}, so its effect cannot be planned for; retire it or widen the region.`,
  "option-not-taken": (v: { family: string; id: string; option: string; takes: string[] }) =>
    `${v.family} (${v.id}) takes no “${v.option}”; besides counts, order and seed it takes ${v.takes.length === 0 ? "no others" : v.takes.join(", ")}.`,
  "power-question.above-zero": (v: { name: string; value: number }) =>
    `${v.name} is ${written(v.value)}; give a number above 0.`,
  "power-question.alpha": (_: object) => "Give α, or all of effect, noise, power and replicates to have α worked out.",
  "power-question.power": (v: { power: number; alpha: number | null }) =>
    `Power is ${written(v.power)}; give a number between ${v.alpha === null ? 0 : `α (${written(v.alpha)})`} and 1.`,
  "power-question.replicates": (v: { replicates: number; most: number }) =>
    `Replicates is ${written(v.replicates)}; give a whole number up to ${grouped(v.most)}.`,
  "power-question.three": (v: { given: number }) =>
    `Give three of effect, noise, power and replicates; ${written(v.given)} were given.`,
  "program-answer.missing": (v: { responses: string[] }) =>
    `The answer says nothing of ${listed(v.responses)}; each response of the study is needed.`,
  "program-answer.not-number": (v: { name: string; value: string }) =>
    `The answer gives ${v.name} as ${v.value}, which is no number.`,
  "program-answer.nothing": (_: object) => "The answer is empty; print lines of name=value, or one JSON object.",
  "program-answer.too-long": (v: { most: number }) =>
    `The answer is longer than ${v.most === 1 ? "one character" : `${grouped(v.most)} characters`}; print the results alone.`,
  "program-answer.too-many": (v: { name: string; values: number; most: number }) =>
    `The answer gives ${grouped(v.values)} values of ${v.name}; a trial holds at most ${grouped(v.most)}.`,
  "program-answer.twice": (v: { name: string }) =>
    `The answer says ${v.name} twice; say it once, several values as a list.`,
  "program-answer.two": (_: object) => "The program answered more than once; print one answer a trial.",
  "program-answer.unknown": (v: { name: string; responses: string[] }) =>
    `The answer names “${v.name}”, which is no response of this study; its responses are ${v.responses.join(", ")}.`,
  "program-answer.unreadable": (v: { text: string }) =>
    `The answer “${v.text}” is neither lines of name=value nor one JSON object.`,
  retired: (v: { place: string; factor: string }) =>
    `${v.place}: ${v.factor} is retired; bring it back before using it in a model.`,
  "rig-unfit.number": (v: { rig: string; factor: string }) => `The ${v.rig} rig takes a number for ${v.factor}.`,
  "rig-unfit.study": (v: { why: Said<UnfitValues> }) => worded(unfits, v.why),
  "run-held": (v: { file: string; pid: number }) =>
    `Another run is at ${v.file} (process ${v.pid}); let it end, or stop it first.`,
  "same-heading": (v: { headings: [string, string]; columns: [number, number] }) =>
    `The heading ${sameText(v.headings)} (columns ${v.columns[0]} and ${v.columns[1]}), so one column would be lost. Rename one of them, or take it out of the sheet; nothing was taken.`,
  "no-workbook": (_: object) =>
    "This is no xlsx workbook, or it is damaged. Save it anew as an xlsx workbook, or its sheet as CSV.",
  "workbook-locked": (_: object) =>
    "This workbook is of an older kind than xlsx, or locked by a password. Save it as an xlsx workbook without one, or its sheet as CSV.",
  "workbook-too-large": (v: { megabytes: number; most: number }) =>
    `The workbook holds ${grouped(v.megabytes)} MB; at most ${grouped(v.most)} are read. Save the sheet with the results alone.`,
  "sheet-too-far": (v: { sheet: string; at: string; rows: number; columns: number }) =>
    `The sheet “${v.sheet}” has something at ${v.at}; sheets are read to ${grouped(v.rows)} rows and ${grouped(v.columns)} columns. Delete what stands beyond, cells that are only coloured too, and save it anew.`,
  "sheet-too-far.cells": (v: { sheet: string; rows: number; columns: number; cells: number }) =>
    `The sheet “${v.sheet}” spans ${grouped(v.rows)} rows and ${grouped(v.columns)} columns; at most ${grouped(v.cells)} cells are read, empty ones too. Delete what stands far from the results, and save it anew.`,
  "odd-key": (v: { key: string }) =>
    `“${v.key}” cannot be a name here: programs keep that word for themselves, or it holds half a letter. Rename it.`,
  "odd-text": (v: { place: string }) =>
    `The text ${v.place === "" ? "" : `at ${v.place} `}holds half a letter (a lone surrogate), which cannot be kept. Write it anew.`,
  "no-sheet": (v: { sheet: string; sheets: string[] }) =>
    `The workbook has no sheet “${v.sheet}”; it has ${v.sheets.map((x) => `“${x}”`).join(", ")}.`,
  "short-word": (v: { word: string }) =>
    `These generators make the word ${v.word}, which would confound main effects with each other; choose longer ones.`,
  "setup.apart": (v: { wave: string; setup: number; order: number }) =>
    `Set-up ${v.setup} of ${v.wave} is left and comes back at trial ${v.order}; a set-up's trials follow each other: give what comes later a number of its own.`,
  "setup.changes": (v: { factor: string; setup: number; order: number; wave: string }) =>
    `${v.factor} is hard to change, yet trial ${v.order} sets it otherwise within set-up ${v.setup} of ${v.wave}; begin another set-up there, or call the factor easy to change.`,
  "setup.part": (v: { wave: string; order: number }) =>
    `Trial ${v.order} has no set-up, though others of ${v.wave} have one; number all trials of a wave or none.`,
  "spread-result": (v: { place: string; id: string }) =>
    `${v.place}: “${v.id}” is worked out from another response and takes no results.`,
  "step-too-large": (v: { factor: string; step: number; low: number; high: number }) =>
    `${v.factor}: the step (${written(v.step)}) is larger than the range from ${written(v.low)} to ${written(v.high)}.`,
  "step-too-small": (v: { factor: string; step: number }) =>
    `${v.factor}: the step (${written(v.step)}) cuts the range into more than a million positions; use a larger one.`,
  "too-deep": (v: { most: number }) =>
    `Brackets stand more than ${written(v.most)} deep in one another; no study needs that.`,
  "too-few-levels": (v: { factor: string; values: number }) =>
    `${v.factor} has ${written(v.values)} values, too few for its power in the model; take that term out.`,
  "too-few-results": (v: { response: string }) =>
    `${v.response} has one result; at least two are needed to fit anything.`,
  "too-few-trials": (v: { columns: number; carried: number | null; trials: number; least: number }) =>
    `This model has ${counted(v.columns, "column")}${v.carried === null ? "" : `, of which the runs that stand carry ${written(v.carried)}`}; ${counted(v.trials, "trial")} cannot estimate it, at least ${written(v.least)} can.`,
  "too-large.file": (v: { characters: number; most: number }) =>
    `The file holds ${Math.round(v.characters / 1e6)} million characters; the most is ${v.most / 1e6} million.`,
  "too-large.rows": (v: { rows: number; most: number }) =>
    `The text holds ${counted(v.rows, "row")}; the most is ${written(v.most)}.`,
  "too-large.search": (v: { trials: number; factors: number; columns: number }) =>
    `A search over ${counted(v.trials, "trial")}, ${counted(v.factors, "factor")} and ${counted(v.columns, "column")} is too large; ask for fewer trials or terms.`,
  "too-large.text": (v: { characters: number; most: number }) =>
    `The text holds ${(v.characters / 1e6).toFixed(1)} million characters; the most is ${v.most / 1e6} million.`,
  "too-many-combinations": (v: { most: number }) =>
    `Levels and listed values make more than ${written(v.most)} combinations; hold some factors.`,
  "too-many-replicates": (v: { most: number }) =>
    `More than ${grouped(v.most)} replicates would be needed; the effect is too small for this noise.`,
  "too-many-terms.plan": (v: { columns: number; most: number }) =>
    `That model has ${counted(v.columns, "column")}; a plan can be built for at most ${written(v.most)}. Ask for fewer terms.`,
  "too-many-terms.possible": (v: { terms: number; most: number }) =>
    `${written(v.terms)} possible terms are more than a search can hold; name at most ${written(v.most)}.`,
  "too-many-terms.subsets": (v: { terms: number; most: number }) =>
    `${written(v.terms)} candidate terms are more than all subsets can be searched of; name at most ${written(v.most)}.`,
  "too-many-trials.factorial": (v: { runs: number }) =>
    `A full factorial of these levels takes ${counted(v.runs, "trial")}; ask for fewer levels.`,
  "too-many-trials.plan": (v: { trials: number; most: number }) =>
    `That makes ${counted(v.trials, "trial")}; the most is ${written(v.most)}.`,
  "unknown-example": (v: { name: string; examples: string[] }) =>
    `There is no example “${v.name}”; the examples are ${v.examples.join(", ")}.`,
  "unknown-family": (v: { family: string; families: string[] }) =>
    `There is no plan family “${v.family}”; the families are ${v.families.join(", ")}.`,
  "unknown-id.covariate": (v: { place: string; id: string }) => `${v.place}: there is no covariate “${v.id}”.`,
  "unknown-id.factor": (v: { place: string; id: string }) => `${v.place}: there is no factor “${v.id}” in this study.`,
  "unknown-id.factor-in-use": (v: { name: string; factors: string[] }) =>
    `There is no factor “${v.name}” in use; the factors are ${v.factors.join(", ")}.`,
  "unknown-id.response": (v: { id: string; responses: string[] }) =>
    `There is no response “${v.id}”; ${v.responses.length === 0 ? "this study has none yet" : `the responses are ${v.responses.join(", ")}`}.`,
  "unknown-id.response-at": (v: { place: string; id: string }) => `${v.place}: there is no response “${v.id}”.`,
  "unknown-id.spread": (v: { response: string; of: string }) =>
    `${v.response} is the spread of “${v.of}”, which is not a measured response of this study.`,
  "unknown-id.term": (v: { place: string; id: string }) => `${v.place}: there is no factor or covariate “${v.id}”.`,
  "unknown-id.trial": (v: { id: string }) => `There is no trial “${v.id}” to repeat.`,
  "unknown-id.trial-of-study": (v: { id: string }) => `There is no trial “${v.id}” in this study.`,
  "unknown-id.wave": (v: { place: string; id: string }) => `${v.place}: there is no wave “${v.id}”.`,
  "unknown-key": (v: { place: string }) =>
    `${v.place} is not a key this version knows; remove it or correct its spelling.`,
  "unknown-level.list": (v: { place: string; factor: string }) =>
    `${v.place}: ${v.factor} is a category; list its levels.`,
  "unknown-level.retired": (v: { factor: string; level: string }) =>
    `${v.factor} is retired at “${v.level}”, which is not one of its levels.`,
  "unknown-level.value": (v: { place: string; factor: string; value: string; levels: string[] }) =>
    `${v.place}: ${v.factor} has no level ${v.value}; it has ${v.levels.join(", ")}.`,
  "unknown-question": (v: { id: string; questions: string[] }) =>
    `There is no question “${v.id}”; there are ${v.questions.join(", ")}.`,
  "unknown-rig": (v: { rig: string; rigs: string[] }) =>
    `There is no rig “${v.rig}”; the rigs are ${v.rigs.join(", ")}.`,
  unreachable: (_: object) => "An augmentation is built for a model.",
  unreadable: (_: object) => "Something in it has a “length” and is no text or list; write it as one.",
  "wide-category.all": (_: object) => "No factor has just two ends to turn.",
  "wide-category.factor": (v: { factor: string }) =>
    `${v.factor} has more than two levels, so it has no opposite; name the factors to turn without it.`,
  "wrong-place": (v: { of: string; response: string }) => `The model is of “${v.of}”, its address of “${v.response}”.`,
};

export type ErrorValues = ValuesOf<typeof errors>;
