import type { CountedFault } from "../study/measured";
import type { DoubtValues } from "../words/english/bench";
import type { ErrorValues, Remedy } from "../words/english/errors";
import type { ChangeValues, SpotValues } from "../words/english/history";
import type { PlaceValues } from "../words/english/places";
import type { Climb, ReadingValues } from "../words/english/readings";
import type { RemarkValues, UnfitValues } from "../words/english/remarks";
import type { SuspectValues } from "../words/english/suspects";
import type { ColumnValues, RowValues, TypingValues } from "../words/english/typed";
import type { RiskValues, WaveNameValues, WhyValues } from "../words/english/waves";
import type { WorkbookValues } from "../words/english/workbooks";
import type { Change, Said, Size } from "../words/said";

/** A name as long as people write them. */
export const LONG = "Residual moisture of the outermost layer of leaves on the lowest tray, second pass";

/** What words must stand: one and many, nothing, huge, tiny, below zero. */
export const EXTREMES = [
  { n: 1, v: 0, p: 0 },
  { n: 2, v: -0, p: 1 },
  { n: 20_000, v: 123_456.789, p: 0.04999 },
  { n: 7, v: -0.0004, p: 3e-12 },
];

/** A family that no language has a name of its own for. */
const FAMILY = { id: "star", label: "Star" };

/** A count that cannot stand, with figures as awkward as they come. */
const countedFault = (v: number, share: boolean): CountedFault => ({
  why: share ? "more" : "no-of",
  share,
  text: "text",
  events: v,
  of: v,
});
const REMEDIES: Remedy[] = [
  { do: "lengthen", least: 1 },
  { do: "shorten", most: 1, text: true },
  { do: "shorten", most: 15, text: false },
  { do: "raise", bound: 0, inclusive: true },
  { do: "lower", bound: 1, inclusive: false },
  { do: "choose", of: ["hit"] },
  { do: "choose", of: ["hit", "raise"] },
  { do: "write", what: "int" },
  ...(["id", "letter", "recipe", "shape"] as const).map((rule): Remedy => ({ do: "follow", rule })),
];

/** Figures of every refusal: a type holds it to be whole. */
const refusals = (n: number, v: number, remedy: Remedy): ErrorValues => {
  const many = n > 1;
  const names = many ? [LONG, "Dose"] : ["Heat"];
  const sizes = many ? [8, 16] : [8];
  return {
    bounds: { response: LONG, min: v, max: v },
    forbidden: { place: "place", from: v, to: v },
    retired: { place: "place", factor: LONG },
    unreachable: {},
    unreadable: {},
    "absurd-number": { place: "place" },
    "all-run": {},
    "axial-too-far": { alpha: v, factor: LONG, distance: v },
    "bad-alpha": { alpha: v },
    "bad-axial": { asked: "text" },
    "bad-blocks.box-behnken": { factors: n, orthogonal: many ? n : null, blocks: n },
    "bad-blocks.composite-two": {},
    "bad-blocks.family": { family: "text" },
    "bad-blocks.interaction": { corners: n, blocks: n },
    "bad-blocks.main-effect": { trials: n, blocks: n },
    "bad-blocks.powers": { trials: n, blocks: n },
    "bad-blocks.replicates": {},
    "bad-blocks.too-few": { trials: n, blocks: n },
    "bad-blocks.two-levels": {},
    "bad-count.array": { sizes, trials: many ? n : null },
    "bad-count.between": { name: "text", value: v, least: n, most: n },
    "bad-count.box-behnken": { size: n, trials: n },
    "bad-count.centre": { n },
    "bad-count.centre-blocks": { centre: n, corners: n, fewer: n, more: n },
    "bad-count.centre-copies": {},
    "bad-count.composite": { sizes, trials: n },
    "bad-count.definitive": { factors: n, sizes, trials: many ? n : null },
    "bad-count.factorial": { factors: n, runs: n, trials: n },
    "bad-count.follow": { what: "text", n, most: n },
    "bad-count.fraction": { factors: n, sizes, trials: n },
    "bad-count.generators": { runs: n, trials: n },
    "bad-count.hadamard": { trials: n, sizes },
    "bad-count.most": { name: "text", value: v, most: n },
    "bad-count.no-array": { trials: n },
    "bad-count.no-fraction": { factors: n, runs: n },
    "bad-count.plackett-burman": { factors: n, sizes, folded: many, trials: many ? n : null },
    "bad-count.say-fraction": { sizes },
    "bad-count.say-optimal": { columns: n, least: n },
    "bad-edit.order": { list: "text" },
    "bad-edit.place": { place: "place" },
    "bad-generator.generated": { factor: LONG, other: "text" },
    "bad-generator.left": { part: "text" },
    "bad-generator.letter": { generator: "text", letter: "text", letters: names },
    "bad-generator.number": { generators: n, runs: n, factors: n, most: n },
    "bad-generator.right": { part: "text" },
    "bad-generator.twice": {},
    "bad-generator.unreadable": { part: "text" },
    "bad-hold.level": { factor: LONG, level: "text", levels: names },
    "bad-hold.range": { factor: LONG, value: "text", least: n, most: n, unit: "°C" },
    "bad-hold.unknown": { id: "text", factors: names },
    "bad-keep": { keep: v },
    "bad-levels.number": { levels: "text", most: n },
    "bad-levels.own": { part: "text", factor: LONG, category: many },
    "bad-levels.unknown": { part: "text", name: "text" },
    "bad-option": { option: "text", family: "text", why: "text" },
    "bad-roles.heading": { heading: LONG, headings: names },
    "bad-roles.role": { heading: LONG, role: "knob", roles: ["factor", "note"] },
    "bad-roles.shape": { path: "roles.json" },
    "bad-settings": { flag: "text" },
    "bad-shape.choice": { place: "place", value: "text" },
    "bad-shape.value": { place: "place", value: "text", remedy },
    "bad-step": { step: v },
    "bad-terms.file": { text: "text" },
    "bad-terms.neither": { text: "text" },
    "bad-transform": { trial: "text", value: v, scale: "text" },
    "bad-version": {},
    "cannot-estimate": {},
    "cannot-write": { file: "text" },
    "category-in-limit": { factor: LONG },
    "category-squared": { place: "place", factor: LONG },
    "constant-within-setups": { response: LONG, setups: n + 1 },
    "constant-response": { response: LONG, value: v },
    "counted-all": { response: LONG },
    "counted-goal": { response: LONG, what: "low", value: v, share: many },
    "counted-none": { response: LONG },
    "counted-result": { place: many ? "place" : null, response: LONG, fault: countedFault(v, many) },
    "counted-spread": { response: LONG, of: LONG },
    "counted-transform": { response: LONG, share: many },
    "counted-what": { response: LONG, key: "of" },
    "covariate-term.alone": { place: "place", covariate: LONG },
    "covariate-term.plan": { term: "text" },
    "duplicate.listed": { factor: LONG, value: v },
    "duplicate.model": { response: LONG },
    "duplicate.order": { place: "place", order: n },
    "duplicate.term": { place: "place", term: many ? "text" : null },
    "duplicate.value": { what: "text", value: "text" },
    "edit-conflict.changed": { place: "place" },
    "edit-conflict.removed": { place: "place" },
    "empty-backup": {},
    "empty-limit.combination": { place: "place" },
    "empty-limit.limit": { place: "place" },
    "empty-region.limits": {},
    "empty-region.plan": {},
    "empty-region.setpoint": {},
    "empty-region.wave": {},
    "empty-sheet.cells": {},
    "empty-sheet.text": {},
    "family-unfit": { why: { code: "middle", values: { family: FAMILY, factor: LONG } } },
    "fold-over-idle": { words: names },
    "goal.low": { response: LONG, low: v, high: v },
    "goal.target": { response: LONG, target: v, low: v, high: v },
    "hard-limit.lower": { factor: LONG, hard: v, low: v },
    "hard-limit.upper": { factor: LONG, hard: v, high: v },
    "log-of-nothing.range": { factor: LONG },
    "log-of-nothing.setting": { place: "place", factor: LONG, value: v },
    "log-of-nothing.values": { factor: LONG },
    "low-not-below-high": { factor: LONG, low: v, high: v },
    "missing.augmentation": {},
    "missing.carried": {},
    "missing.key": { place: "place" },
    "missing.reduce": { option: "text" },
    "missing.revision": {},
    "missing.setting": { place: "place", factor: LONG, id: "text" },
    "missing.stray": { option: "text", kind: "text" },
    "missing.two": { given: n },
    "missing.three": { given: n },
    "missing.trials": { family: "text", generators: many },
    "newer-version": { version: n, reads: n },
    "no-centre.categories": {},
    "no-centre.region": {},
    "no-centre.two-values": { factor: LONG },
    "no-hard-factor": {},
    "too-few-setups": { asked: n, least: n, size: n },
    "no-base": { response: LONG, counted: many },
    "no-confirmation": {},
    "no-corners": {},
    "no-error-df": {},
    "no-factors": {},
    "no-file": { file: "text" },
    "no-goals": {},
    "no-half": {},
    "no-match-column.factors": { factors: names },
    "no-match-column.trials": { factor: LONG },
    "no-middle.factor": { factor: LONG },
    "no-middle.study": {},
    "no-model.any": {},
    "no-model.path": {},
    "no-model.response": { responses: names },
    "no-path": {},
    "no-possible": {},
    "no-results-column": { responses: names },
    "no-results.confirmation": {},
    "no-results.response": { response: LONG },
    "no-rows.empty": {},
    "no-rows.problem": { problem: "text" },
    "no-setpoint.confirm": {},
    "no-setpoint.impossible": {},
    "no-spread": { source: LONG, repeats: many },
    "no-trials.appraise": {},
    "no-trials.follow": {},
    "no-trials.power": {},
    "no-trials.repeat": {},
    "not-a-fraction": { wave: LONG },
    "not-categories": { factor: LONG, settings: n, most: 12 },
    "not-a-number.retired": { factor: LONG, value: "text" },
    "not-a-number.setting": { place: "place", factor: LONG, value: "text" },
    "not-a-study.format": { format: "text" },
    "not-a-study.top": {},
    "not-json": { of: many ? "body" : "terms", name: LONG },
    "not-text": {},
    "nothing-new.carry": { factors: [LONG], served: n },
    "nothing-settable": {},
    "nothing-to-estimate": {},
    "one-level": { factor: LONG, level: many ? "text" : null },
    "option-not-taken": { family: "text", id: "text", option: "text", takes: names },
    "power-question.above-zero": { name: "text", value: v },
    "power-question.alpha": {},
    "power-question.power": { power: v, alpha: many ? v : null },
    "power-question.replicates": { replicates: n, most: n },
    "power-question.three": { given: n },
    "program-answer.missing": { responses: many ? ["grease", LONG] : ["grease"] },
    "program-answer.not-number": { name: "Grease", value: "“nan”" },
    "program-answer.nothing": {},
    "program-answer.too-long": { most: n },
    "program-answer.too-many": { name: "Grease", values: n, most: n },
    "program-answer.twice": { name: "Grease" },
    "program-answer.two": {},
    "program-answer.unknown": { name: LONG, responses: ["grease"] },
    "program-answer.unreadable": { text: "starting" },
    "rig-unfit.number": { rig: "text", factor: LONG },
    "rig-unfit.study": { why: { code: "rig-knob", values: { rig: "text", factor: LONG } } },
    "run-held": { file: "study.json", pid: n },
    "same-heading": { headings: ["Note", many ? "note" : "Note"], columns: [1, n] },
    "short-word": { word: "text" },
    "no-workbook": {},
    "workbook-locked": {},
    "workbook-too-large": { megabytes: 30 * n, most: 25 },
    "no-sheet": { sheet: LONG, sheets: many ? ["Ledger", LONG] : ["Ledger"] },
    "setup.apart": { wave: LONG, setup: n, order: n },
    "setup.changes": { factor: LONG, setup: n, order: n, wave: LONG },
    "setup.part": { wave: LONG, order: n },
    "spread-result": { place: "place", id: "text" },
    "step-too-large": { factor: LONG, step: v, low: v, high: v },
    "step-too-small": { factor: LONG, step: v },
    "too-deep": { most: n },
    "too-few-levels": { factor: LONG, values: n },
    "too-large.model": { trials: n, terms: n },
    "too-large.models": { trials: n, terms: n },
    "too-few-results": { response: LONG },
    "too-few-trials": { columns: n, carried: many ? n : null, trials: n, least: n },
    "too-large.file": { characters: n, most: n },
    "too-large.rows": { rows: n, most: n },
    "too-large.search": { trials: n, factors: n, columns: n },
    "too-large.text": { characters: n, most: n },
    "too-many-combinations": { most: n },
    "too-many-replicates": { most: n },
    "too-many-terms.plan": { columns: n, most: n },
    "too-many-terms.possible": { terms: n, most: n },
    "too-many-terms.subsets": { terms: n, most: n },
    "too-many-trials.factorial": { runs: n },
    "too-many-trials.plan": { trials: n, most: n },
    "unknown-example": { name: "text", examples: names },
    "unknown-family": { family: "text", families: names },
    "unknown-id.covariate": { place: "place", id: "text" },
    "unknown-id.factor": { place: "place", id: "text" },
    "unknown-id.factor-in-use": { name: "text", factors: names },
    "unknown-id.response": { id: "text", responses: names },
    "unknown-id.response-at": { place: "place", id: "text" },
    "unknown-id.spread": { response: LONG, of: "text" },
    "unknown-id.term": { place: "place", id: "text" },
    "unknown-id.trial": { id: "text" },
    "unknown-id.trial-of-study": { id: "text" },
    "unknown-id.wave": { place: "place", id: "text" },
    "unknown-key": { place: "place" },
    "unknown-level.list": { place: "place", factor: LONG },
    "unknown-level.retired": { factor: LONG, level: "text" },
    "unknown-level.value": { place: "place", factor: LONG, value: "text", levels: names },
    "unknown-question": { id: "text", questions: names },
    "unknown-rig": { rig: "text", rigs: names },
    "wide-category.all": {},
    "wide-category.factor": { factor: LONG },
    "wrong-place": { of: "text", response: LONG },
  };
};

/** Every refusal, with every remedy. */
export const refusalsAtExtremes = (n: number, v: number): ErrorValues[] =>
  REMEDIES.map((remedy) => refusals(n, v, remedy));

/** Figures of why a wave may follow. */
export const reasons = (n: number, p: number): WhyValues => {
  const names = n > 1 ? [LONG, "Dose"] : ["Heat"];
  return {
    "bend-or-shift": { response: LONG, p },
    chain: { response: LONG, terms: ["AB", "CD"], more: n - 1 },
    "which-square": { response: LONG, term: "A²", others: ["B²"], more: n > 1 },
    "centre-off": { response: LONG, p },
    uphill: { response: LONG },
    "few-df": { response: LONG, df: n },
    "not-run": {},
    "carry-asked": { factors: names },
    idle: { factors: names },
  };
};

/** Figures of what could go wrong with a plan. */
export const hazards = (n: number, v: number): RiskValues => {
  const names = n > 1 ? [LONG, "Dose"] : ["Heat"];
  return {
    "not-told-from": { term: LONG, from: names },
    "no-estimate": { n, such: names },
    "not-at-all": { terms: names },
    leaks: { term: LONG, percent: n, from: "Heat" },
    "no-error-df": {},
    "few-error-df": { df: n },
    "few-between": { df: n > 1 ? 1 : 0 },
    "no-copies": {},
    inflated: { vif: Math.abs(v) + 5 },
    "axial-moved": { factors: [{ name: LONG, wanted: 1.682, stands: 1.75 }] },
    "loses-trials": { n },
  };
};

/** What names of waves hold. */
export const waveNamesAt = (n: number): WaveNameValues => ({
  axial: {},
  corners: {},
  chains: {},
  "half-foldover": {},
  "missing-fraction": {},
  climb: { response: LONG },
  centre: {},
  confirm: {},
  foldover: {},
  carry: { letters: n > 1 ? ["A", "C"] : ["B"] },
  repeat: {},
});

/** What names of places in a study hold. */
export const spotsAt = (n: number): SpotValues => ({
  study: { cell: n > 1 ? "title" : "region" },
  order: { list: "factors" },
  thing: { list: "responses", name: LONG },
  cell: { list: n > 1 ? "models" : "trials", name: LONG, key: "hardLow" },
  "of-trial": { name: LONG, trial: String(n), bag: n > 1 ? "asRun" : "results" },
});

/** What became of cells. */
export const changesAt = (n: number, v: number): ChangeValues => {
  const spot = { code: "of-trial", values: spotsAt(n)["of-trial"] } as const;
  const cell = { spot, from: { is: "number", value: v }, to: { is: "number", value: n }, unit: "°C" } as const;
  return {
    changed: cell,
    entered: { ...cell, from: { is: "nothing" } },
    cleared: { ...cell, to: { is: "nothing" } },
    added: { spot },
    removed: { spot },
    "terms-moved": { spot, into: n > 1 ? ["A × B", LONG] : ["A"], out: n > 1 ? [] : ["B"] },
    moved: { spot },
  };
};

/** What results are doubted with. */
export const doubtsAt = (v: number): DoubtValues => ({
  far: { value: v, unit: "", low: -Math.abs(v), high: Math.abs(v) + 1, meant: v > 0 ? v / 10 : null },
  "cannot-be": { value: v, unit: "%", min: v + 1, max: null, meant: null },
});

/** Figures of what may be behind a confirmation that does not agree. */
export const doubts = (n: number, v: number, p: number): SuspectValues => ({
  "wave-explains": { n },
  "one-side": { results: [{ name: LONG, off: v }] },
  extrapolation: { responses: n > 1 ? [LONG, "Dose"] : ["Heat"] },
  bend: { response: LONG, p },
  "lack-of-fit": { response: LONG, p },
  drift: { response: LONG, rising: n > 1, first: n, last: n + 1 },
  unknown: { response: LONG },
});

/** Figures of every reading: a type holds it to be whole. */
export function statements(n: number, v: number, p: number): ReadingValues {
  const many = n > 1;
  const names = many ? [LONG, "Dose"] : ["Heat"];
  const size: Size = { value: v, error: many ? Math.abs(v) : null, unit: many ? "%" : { scale: "log" } };
  const change: Change = many ? { ...size, from: "hill", to: "lowland", ends: false } : { ...size, ends: true };
  const interval: [number, number] | null = many ? [v, v + 1] : null;
  const missed = names.map((response) => ({ response, mean: v, limit: v, below: many, unit: "%" }));
  const climb: Climb = {
    response: LONG,
    gain: size,
    towards: many ? "higher" : "lower",
    ratio: many ? Math.abs(v) : null,
    s: many ? size : null,
    leaves: n - 1,
  };
  const why: Said<WhyValues> = { code: "not-run", values: {} };
  return {
    "left-out": { response: LONG, term: LONG, size: change, p },
    "nothing-active": { response: LONG, s: size },
    drivers: { response: LONG, leads: names.map((name) => ({ name, size: change })) },
    likely: { response: LONG, terms: names.map((name) => ({ name, size: change, p })), looked: n },
    together: {
      pair: LONG,
      sure: many,
      mover: LONG,
      other: "Lot",
      ends: [
        { at: "hill", change: v },
        { at: "lowland", change: -v },
      ],
      error: size.error,
    },
    bends: { factor: LONG, sure: many, size, interval },
    alias: {
      term: LONG,
      others: many ? [LONG, "AB", "CD", "EF"] : ["AB"],
      weighed: many ? { by: "heredity", likely: "AB", parents: 2, swap: true } : { by: "nothing", equal: ["AB", "CD"] },
      waves: many ? [{ name: "augment", factor: null }] : [{ name: "one-factor", factor: LONG }],
    },
    influential: {
      order: n,
      cooks: many ? Math.abs(v) : null,
      off: Math.abs(v),
      s: { before: Math.abs(v), after: 0 },
      unit: size.unit,
      moved: many ? { term: LONG, before: v, after: -v } : null,
    },
    "bend-or-shift": { above: "Wave 2", below: "Wave 1", size, p },
    curvature: { response: LONG, size, p },
    "wave-shift": { above: "Wave 2", below: "Wave 1", size, interval, inModel: many },
    "waves-alike": { above: "Wave 2", below: "Wave 1", size, interval, p },
    "no-residual-df": { coefficients: n, results: n },
    "few-df": { df: n, response: LONG },
    dropped: { columns: names, sum: many ? { of: LONG, parts: [{ name: "AB", factor: -1 }] } : null },
    unseen: { response: LONG, factor: "Lot", levels: names },
    "lack-of-fit": { f: Math.abs(v), df: n, pureErrorDf: n, p },
    overfit: { r2: 0.9, r2Predicted: v },
    "penalised-separates": { response: LONG },
    "penalised-few": { response: LONG, of: LONG, level: "high", events: n > 1, counted: n },
    "scatter-carried": { response: LONG, times: Math.abs(v), share: n > 1 },
    setups: {
      response: LONG,
      setups: n + 1,
      trials: 4 * n,
      between: many ? size : null,
      within: size,
      df: n,
      ignored: many ? { term: LONG, p, right: 0.39 } : null,
    },
    "setups-assumed": { response: LONG, setups: n, ratio: 1 },
    floored: { n },
    averaged: { response: LONG, models: n + 1 },
    "climb-not-yet": climb,
    "climb-no-need": climb,
    "climb-hardly": climb,
    climb,
    check: { check: { id: "bend", approximate: many, code: "bend-untold", values: {} } },
    orphans: { terms: names, n: names.length },
    "beyond-bounds": { percent: n, response: LONG, side: "below", bound: v === 0 ? 0 : v, holds: "none" },
    idle: { response: LONG, factors: names, most: size },
    "too-few-factors": {},
    "next-wave": {
      why,
      plan: "Axial points",
      more: n,
      parted: n - 1,
      tells: many ? { now: n, before: 1, of: n } : null,
      clears: n,
    },
    "fewest-trials": { factors: n + 1, pairs: n, least: n, asked: many ? "quadratic" : { picked: n } },
    "no-plans": { budget: n },
    "none-bends": {},
    "none-tells-all": { budget: n, asked: "main" },
    "sharp-enough": {
      noise: Math.abs(v),
      smallest: Math.abs(v),
      unit: "%",
      response: LONG,
      trials: n,
      plan: "Fraction",
      power: 0.8,
    },
    "not-sharp": { budget: n, smallest: v, unit: "", response: LONG, power: 0.8, sharpest: v },
    "noise-unknown": {},
    chains: { plan: "a", lost: n, of: n, term: "AB", with: names },
    "resolution-three": { plan: "a" },
    "no-error-df": { plan: "a" },
    "loses-trials": { plan: "a", n },
    "no-centre": { categories: many },
    "standard-order": {},
    adopt: {},
    "no-responses": {},
    "no-factors": {},
    "one-factor": {},
    "no-goals-yet": {},
    "noise-unsaid": { responses: names },
    "small-change": { response: LONG, smallest: v, unit: "%", ratio: Math.abs(v), trials: n },
    "corners-all-excluded": {},
    "corners-excluded": { excluded: n, corners: n },
    "limits-beside-corners": { plans: names.map((plan) => ({ plan, lost: n, trials: n })) },
    "limits-idle": {},
    "no-step": { factors: names },
    "hard-to-change": { factors: names, cost: many },
    hardest: { response: LONG, ratio: Math.abs(v) },
    "ready-to-plan": { factors: n, categories: many, responses: n },
    "no-trials": {},
    "next-trial": {
      order: n,
      moves: many ? names.map((factor) => ({ factor, from: "52", to: "68 °C" })) : null,
      left: n,
      setup: many ? { number: n, same: names } : null,
    },
    "path-turned": { response: LONG, order: n, waits: many },
    surprise: { order: n, response: LONG, off: v, interval: [v, v + 1], error: size.error, unit: "%" },
    drift: { response: LONG, slope: v, unit: "", p },
    "centre-drift": { response: LONG, centres: 3, each: v, unit: "%" },
    failed: { orders: many ? [n, n + 1] : [n], last: n, why: many ? "flame out." : null },
    "few-between": { plan: "a", df: many ? 1 : 0, terms: many ? names : [] },
    "reset-anyway": {
      factors: names,
      kept: n,
      reset: n + 1,
      cost: { kept: n, reset: many ? n + 9 : n + 1 },
      sees: { kept: Math.abs(v), reset: Math.abs(v) },
      unit: "%",
    },
    "mark-setups": { factors: names, setups: n + 1, trials: 4 * n, most: 4 },
    exact: { responses: names },
    "exact-model": { response: LONG },
    "mains-only": { responses: names },
    "not-fitted": { responses: names },
    "as-run-differs": { order: n, ran: "70 °C", planned: "68", more: n - 1 },
    "outside-region": { orders: many ? [1, 2, 3, 4, 5] : [1] },
    missing: { response: LONG, orders: [n], of: n },
    "all-run": { n },
    "no-goals": {},
    "missing-models": { responses: names },
    confirmed: { trials: n, limits: many },
    "confirmed-short": { trials: n, missed },
    "not-confirmed": {
      missed: many ? missed : [],
      meetsLimits: !many,
      suspect: many ? { code: "unknown", values: { response: LONG } } : null,
    },
    "nothing-meets": {
      short: names.map((response) => ({ response, mean: v, limit: v, unit: "%" })),
      met: many ? names : [],
    },
    "best-settable": { of: many ? n : null, overall: 0.5, exact: 0.5 },
    chance: { chance: p, settingErrors: many, weakest: many ? { response: LONG, chance: p } : null },
    "low-chance": { response: LONG },
    "no-chance": {},
    "few-df-setpoint": { responses: names, least: 3 },
    extrapolates: { responses: names },
    "breaks-bounds": { responses: names },
    control: { factors: names.map((name) => ({ name, off: Math.abs(v), unit: "%", loss: 0.01 })) },
    "against-best": { order: n, overall: 0.4, gain: v },
    "setpoint-incomplete": {},
    "setpoint-outside": {},
    "setpoint-older": { now: 0.4, best: 0.5 },
    confirming: { done: 0, of: n },
    confirm: {
      means: names.map((response) => ({
        response,
        interval: [v, v + 1],
        error: Math.abs(v),
        decimals: many ? 1 : null,
        unit: "%",
      })),
    },
    choose: {},
    "no-setpoint": {},
    unconfirmed: { how: many ? "disagrees" : "not-run" },
    unmodelled: { responses: names },
    "no-efficiencies": {},
    "no-power": {},
    "g-at-most": {},
    "none-meets": {},
    "no-chance-given": {},
    "stands-outside": { order: n, how: { code: "breaks-region", values: { limit: "Heat at most 68" } }, others: n - 1 },
    search: {},
    "search-again": {},
    "evidence-failed": {},
  };
}

/** Figures of why a family or a rig cannot serve. */
export const misfits = (n: number): UnfitValues => {
  const family = n > 2 ? FAMILY : { id: "composite", label: "Central composite" };
  const names = n > 1 ? [LONG, "Dose"] : ["Heat"];
  return {
    factors: { family, fewest: 2, most: n, have: n },
    "numeric-factors": { family, fewest: 2, most: 8, numeric: n - 1, categories: n },
    "two-levels": { family, factor: LONG, levels: n + 2 },
    middle: { family, factor: LONG },
    middles: { family, least: 3, have: n },
    "too-large": { family, trials: n },
    "no-array": { levels: n > 1 ? [2, 3] : [7], factors: n, most: 36 },
    "rig-knobs": { rig: LONG, missing: names },
    "rig-knob": { rig: LONG, factor: LONG },
    "rig-gauges": { rig: LONG, gauges: names },
  };
};

/** Figures of what is said beside figures. */
export const remarksAt = (n: number, v: number): RemarkValues => {
  const names = n > 1 ? [LONG, "Dose"] : ["Heat"];
  return {
    "path-third-order": {},
    "path-level": {},
    "path-factor": { factor: LONG },
    "path-region": {},
    "path-turns": {},
    "path-target": {},
    "path-goes-on": { points: n },
    "third-order": {},
    "no-bend": {},
    "rising-ridge": {},
    "no-standard-errors": {},
    "no-p-values": {},
    "no-predicted-r2": { trial: LONG },
    "no-criteria": {},
    "no-aicc": { coefficients: n, results: n },
    "no-importance": { scale: "log" },
    "no-margins": {},
    "contrasts-wide": { factor: LONG },
    "contrasts-none-varies": {},
    "contrasts-no-corners": {},
    "contrasts-unbalanced": { term: LONG },
    "contrasts-not-orthogonal": { term: LONG, to: "A × B" },
    "contrasts-few": {},
    "contrasts-sizes": { share: true },
    "reduce-exact": {},
    "reduce-few-df": { by: "AICc" },
    "reduce-p-above": { alpha: 0.05 },
    "reduce-lower-without": { by: "BIC" },
    "reduce-p-below": { alpha: 0.1 },
    "reduce-lower-with": { by: "AICc" },
    "went-forward": { df: n - 1 },
    "equation-many": { combinations: n + 1 },
    "equation-unseen": { unseen: names.map((factor) => ({ factor, levels: names })) },
    "region-excludes": { runs: n },
    "centre-beside": {},
    "centre-alone": {},
    "axial-no-centre": {},
    "fold-block": { words: n > 1 ? ["ABCE", "-BCDF"] : ["ABC"], more: n > 2 },
    "fold-centre": {},
    "fraction-block": {},
    "in-turn": {},
    "place-outside": { why: { code: "breaks-region", values: { limit: "Heat at most 68" } } },
    reused: {
      served: n,
      points: n,
      elsewhere: n === 7 ? [] : names,
      retired: n === 20_000 ? names : [],
      biases: n === 2 ? [] : names.map((response) => ({ response, size: Math.abs(v), unit: "%" })),
    },
  };
};

/** Figures of what a place breaks. */
export const placesAt = (n: number, v: number): PlaceValues => {
  const end = {
    factor: LONG,
    value: v,
    unit: n === 1 ? undefined : "°C",
    side: n === 2 ? ("low" as const) : ("high" as const),
    end: v,
    hard: n > 2,
  };
  return {
    "past-end": end,
    "off-step": { factor: LONG, value: v, unit: end.unit, step: 0.5, from: v },
    "breaks-region": { limit: "Heat at most 68" },
    doubtful: end,
  };
};

/** Figures of what cannot be read of what was typed. */
export const typingsAt = (n: number, v: number): TypingValues => ({
  "no-range": { text: LONG },
  "range-upside-down": { low: v + n, high: v },
  "range-empty": {},
  "range-alone": { text: LONG },
  "range-twice": { text: LONG },
  "no-aim": { text: LONG },
  "no-limits": { text: LONG, example: "58 to 66" },
  "limits-alike": { limit: v, example: "58 to 66" },
  "aim-no-number": { text: LONG, example: "58 to 66" },
  "aim-outside": { aim: v, low: v + n, high: v + 2 * n },
  "no-confidence": { text: "" },
  "no-span": { text: LONG },
  "bound-no-number": { text: LONG },
  "limit-no-factor": { text: LONG, like: "Dose" },
  "limit-category": { factor: LONG, level: "hill" },
  "limit-empty": {},
  "no-region": { text: LONG },
  "no-factor": { text: LONG },
  "no-level": { text: LONG, factor: LONG, levels: n > 1 ? ["hill", "lowland"] : ["hill"] },
  "no-setting": { text: LONG, factor: LONG },
  "region-empty": {},
});

/** Figures of what is not taken of a sheet. */
export const rowsAt = (n: number): RowValues => ({
  "row-no-setting": { row: n, text: LONG, factor: LONG },
  "row-no-number": { row: n, text: LONG },
  "row-no-setup": { row: n, text: LONG },
  "row-either": { row: n, text: LONG },
  "row-no-place": { row: n, taken: n > 1 },
  "row-no-trial": { row: n, named: n > 1 ? "t9" : "" },
  "row-other-number": { row: n, trial: "t1", order: n, number: "2" },
  "row-other-settings": { row: n, order: n },
  "row-twice": { row: n, order: n },
  "row-differs": { row: n, order: n, what: LONG, first: LONG, text: LONG },
  "cell-either": { row: n, text: LONG, column: LONG },
  "cell-no-setting": { row: n, text: LONG, factor: LONG },
  "cell-no-number": { row: n, text: LONG },
  "cell-counted": { row: n, column: LONG, fault: countedFault(n, n > 1) },
  "row-counted": { row: n, column: LONG, fault: countedFault(n, n > 1) },
  "line-counted": { row: n, column: LONG, fault: countedFault(n, n > 1) },
  "cell-no-value": { row: n, text: LONG, column: LONG },
  "line-no-trial": { row: n },
  "line-too-many": { most: 5000 },
  "line-outside": { row: n, text: LONG },
  "line-either": { row: n, text: LONG },
  "line-no-result": { row: n, text: LONG },
});

/** Figures of what is said of a workbook. */
export const workbooksAt = (n: number): WorkbookValues => {
  const cells = { count: n, named: n === 1 ? ["B4"] : ["B4 #DIV/0!", "C7"] };
  return {
    "book-sheet": { sheet: LONG, others: n === 1 ? [LONG] : [LONG, "Models"] },
    "book-above": { rows: n },
    "book-merged": cells,
    "book-hidden": { columns: n, rows: n - 1 },
    "book-errors": cells,
    "book-unworked": cells,
    "book-dates": { cells: n },
    "book-macros": {},
  };
};

/** Figures of what is odd about a column. */
export const columnsAt = (v: number): ColumnValues => ({
  "column-empty": {},
  "column-odd": { cells: v > 1 ? 3 : 1, such: LONG },
  "column-constant": { value: v === 0 ? "0" : LONG },
  "column-twin": { of: LONG },
});
