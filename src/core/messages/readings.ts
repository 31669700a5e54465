import type { AnsweredCheck, CheckId } from "./checks";
import type { Change, Message, Resetting, Size, Unit } from "./message";
import type { PlaceValues } from "./places";
import type { SuspectValues } from "./suspects";
import type { WhyValues } from "./waves";
/** What is asked of a plan: a usual set of terms, or so many picked. */
export type Asked = "main" | "main+2fi" | "quadratic" | { picked: number };

/** A wave that would part terms. */
export interface PartingName {
  name: "fold-over" | "one-factor" | "half" | "missing-fraction" | "augment";
  factor: string | null;
}

/** How the members of a chain are weighed: by heredity, unless a main effect is among them. */
export type Weighed =
  | { by: "main" }
  | { by: "heredity"; likely: string; parents: 0 | 1 | 2; swap: boolean }
  | { by: "nothing"; equal: string[] };

/** Why predictions pass a bound, and what would hold it. */
export type Holds = "share" | "log" | "none";

/** A step of a path: what it takes the response by, against the noise of one trial where there is any. */
export interface Climb {
  response: string;
  gain: Size;
  towards: "higher" | "lower";
  /** Gain over s; none without noise. */
  ratio: number | null;
  s: Size | null;
  /** The first step that leaves what was run, from 1; 0 where none does. */
  leaves: number;
  /** Factors that nobody said how far they can be set, which the path would take past their ranges. */
  open: string[];
}

export interface ModelValues {
  "asked-out": { response: string; terms: string[] };
  "of-noise": { response: string; kept: number; r2: number; own: number; terms: number };
  "too-small": { response: string; s: Size; noise: Size; copies: boolean };
  "left-out": { response: string; term: string; size: Change; p: number };
  "nothing-active": { response: string; s: Size };
  drivers: { response: string; leads: { name: string; size: Change }[] };
  likely: { response: string; terms: { name: string; size: Change; p: number }[]; looked: number };
  together: {
    pair: string;
    sure: boolean;
    mover: string;
    other: string;
    ends: [{ at: string; change: number }, { at: string; change: number }];
    error: number | null;
    /** Where others stand that the changes move with, and categories over all of whose levels they are the same. */
    fixed: { factor: string; at: string }[];
    over: string[];
  };
  bends: { factor: string; sure: boolean; size: Size; interval: [number, number] | null };
  alias: { term: string; others: string[]; weighed: Weighed; waves: PartingName[] };
  influential: {
    order: number;
    cooks: number | null;
    off: number;
    s: { before: number; after: number };
    unit: Unit;
    moved: { term: string; before: number; after: number } | null;
  };
  "bend-or-shift": { above: string; below: string; size: Size; p: number };
  curvature: { response: string; size: Size; p: number };
  "wave-shift": {
    above: string;
    below: string;
    size: Size;
    interval: [number, number] | null;
    inModel: boolean;
  };
  "waves-alike": {
    above: string;
    below: string;
    size: Size;
    interval: [number, number] | null;
    p: number;
    /** All of the interval is small beside the smallest change worth finding. */
    out: boolean;
  };
  "no-residual-df": { coefficients: number; results: number };
  "few-df": { df: number; response: string };
  dropped: { columns: string[]; sum: { of: string; parts: { name: string; factor: number }[] } | null };
  unseen: { response: string; factor: string; levels: string[] };
  "exact-model": { response: string };
  "lack-of-fit": { f: number; df: number; pureErrorDf: number; p: number };
  overfit: { r2: number; r2Predicted: number };
  "penalised-separates": { response: string };
  "penalised-few": { response: string; of: string; level: string; events: boolean; counted: number };
  "scatter-carried": { response: string; times: number; share: boolean };
  setups: {
    response: string;
    setups: number;
    trials: number;
    /** Standard deviations; nothing where set-ups vary no more than their trials explain. */
    between: Size | null;
    within: Size;
    df: number;
    ignored: { term: string; p: number; right: number } | null;
  };
  "setups-assumed": { response: string; setups: number; ratio: number };
  "units-unequal": {
    response: string;
    least: number;
    most: number;
    /** Standard deviations of trials and of units within one; the first is nothing where it is estimated so. */
    between: Size | null;
    within: Size;
  };
  empirical: { response: string; share: boolean };
  floored: { n: number };
  averaged: { response: string; models: number };
  "climb-not-yet": Climb;
  "climb-no-need": Climb;
  "climb-hardly": Climb;
  climb: Climb;
  check: { check: { id: CheckId } & AnsweredCheck };
  orphans: { terms: string[]; n: number };
  "beyond-bounds": { percent: number; response: string; side: "below" | "above"; bound: number; holds: Holds };
  idle: { response: string; factors: string[]; most: Size };
}

export interface PlanValues {
  "too-few-factors": object;
  "next-wave": {
    why: Message<WhyValues>;
    plan: string;
    more: number;
    /** Pairs of effects it parts, effects it tells of all and of before, effects it clears; 0 where it does not. */
    parted: number;
    tells: { now: number; before: number; of: number } | null;
    clears: number;
  };
  "take-this": {
    letter: string;
    plan: string;
    by: "sees" | "cheapest" | "sharpest";
    tellsAll: boolean;
    /** Degrees of freedom for error. */
    df: number;
    sees: number;
    unit: string;
    /** What costs are counted in; undefined for trials. */
    costs: { unit: string | undefined };
    /** The nearest cheaper plan, under its letter where it stands beside, and what it lacks. */
    cheaper: {
      letter: string | null;
      plan: string;
      saves: number;
      lacks: "tells-less" | "few-df" | "less-clear" | "sees-less";
      lost: number;
      of: number;
      df: number;
      sees: number | null;
    } | null;
  };
  "fewest-trials": { factors: number; pairs: number; least: number; asked: Asked };
  "no-plans": { budget: number };
  "none-bends": object;
  "none-tells-all": { budget: number; asked: Asked };
  "sharp-enough": {
    noise: number;
    smallest: number;
    unit: string;
    response: string;
    trials: number;
    plan: string;
    power: number;
  };
  "not-sharp": {
    budget: number;
    smallest: number;
    unit: string;
    response: string;
    power: number;
    sharpest: number;
  };
  "noise-unknown": { counted: boolean };
  chains: { plan: string; lost: number; of: number; term: string; with: string[] };
  "resolution-three": { plan: string };
  "no-error-df": { plan: string };
  "loses-trials": { plan: string; n: number };
  "no-centre": { categories: boolean };
  "standard-order": object;
  adopt: object;
}

export interface QuestionValues {
  "no-responses": object;
  "no-factors": object;
  "one-factor": object;
  "no-goals-yet": object;
  "noise-unsaid": { responses: string[]; counted: string[] };
  "small-change": { response: string; smallest: number; unit: string; ratio: number; trials: number };
  "corners-all-excluded": object;
  "corners-excluded": { excluded: number; corners: number };
  "limits-beside-corners": { plans: { plan: string; lost: number; trials: number }[] };
  "limits-idle": object;
  "no-step": { factors: string[] };
  "hard-to-change": { factors: string[]; cost: boolean };
  hardest: { response: string; ratio: number };
  "ready-to-plan": { factors: number; categories: boolean; responses: number };
}

export interface TrialsValues {
  "no-trials": object;
  /** `moves`: null for the first trial, where all is to be set. */
  "next-trial": {
    order: number;
    moves: Resetting[] | null;
    left: number;
    setup: { number: number; same: string[] } | null;
  };
  "path-turned": { response: string; order: number; waits: boolean };
  surprise: {
    order: number;
    response: string;
    off: number;
    interval: [number, number];
    error: number | null;
    unit: string;
  };
  "centre-drift": { response: string; centres: number; each: number; unit: string };
  failed: { orders: number[]; last: number; why: string | null };
  "few-between": { plan: string; df: number; terms: string[] };
  "reset-anyway": {
    factors: string[];
    kept: number;
    reset: number;
    cost: { kept: number; reset: number };
    sees: { kept: number; reset: number };
    unit: string;
  };
  "several-unsaid": { response: string; trials: number };
  "mark-setups": { factors: string[]; setups: number; trials: number; most: number };
  exact: { responses: string[] };
  drift: { response: string; slope: number; unit: string; p: number };
  "as-run-differs": { order: number; ran: string; planned: string; more: number };
  "outside-region": { orders: number[] };
  missing: { response: string; orders: number[]; of: number };
  "all-run": { n: number };
}

/** A limit that a mean misses. */
export interface Missed {
  response: string;
  mean: number;
  limit: number;
  below: boolean;
  unit: string;
}

export interface SetpointValues {
  "no-goals": object;
  "missing-models": { responses: string[] };
  /** `limits`: whether any goal has one. */
  confirmed: { trials: number; limits: boolean };
  "confirmed-short": { trials: number; missed: Missed[] };
  "not-confirmed": { missed: Missed[]; meetsLimits: boolean; suspect: Message<SuspectValues> | null };
  "nothing-meets": { short: { response: string; mean: number; limit: number; unit: string }[]; met: string[] };
  "best-settable": { of: number | null; overall: number; exact: number };
  chance: {
    chance: number;
    settingErrors: boolean;
    weakest: { response: string; chance: number } | null;
    waves: { apart: string[]; last: string; chance: number } | null;
  };
  chained: { response: string; term: string; other: string; promised: number; here: number; best: number };
  screened: { responses: string[] };
  "open-best": { share: number; within: number };
  "low-chance": { response: string };
  "no-chance": object;
  "few-df-setpoint": { responses: string[]; least: number };
  "assumed-setpoint": { assumed: { response: string; ratio: number }[] };
  extrapolates: { responses: string[] };
  "breaks-bounds": { responses: string[] };
  control: { factors: { name: string; off: number; unit: string; loss: number }[] };
  "against-best": { order: number; overall: number; gain: number };
  "setpoint-incomplete": object;
  "setpoint-outside": object;
  "setpoint-older": { now: number; best: number };
  confirming: { done: number; of: number };
  /** Intervals of the means, to the decimals of the response where it has some. */
  confirm: {
    means: { response: string; interval: [number, number]; error: number; decimals: number | null; unit: string }[];
  };
  choose: object;
}

export interface ReportValues {
  "no-setpoint": object;
  unconfirmed: { how: "disagrees" | "misses-limit" | "not-run" };
  unmodelled: { responses: string[] };
}

/** What answers at the doors add of themselves. */
export interface AnswersValues {
  "no-efficiencies": object;
  "no-power": object;
  "g-at-most": object;
  "none-meets": object;
  "no-chance-given": object;
  "stands-outside": { order: number; how: Message<PlaceValues>; others: number };
  search: object;
  "search-again": object;
  "offered-only": { responses: string[] };
  "not-fitted": { responses: string[] };
  "evidence-failed": object;
}

/** Buttons of readings. */
export type ActionId =
  | "question"
  | "plans"
  | "next-wave"
  | "trials"
  | "bench"
  | "model"
  | "the-model"
  | "setpoint"
  | "stop-running"
  | "mark-setups"
  | "several-repeats"
  | "several-units"
  | "take-offer";

/** Readings of every station, by code. */
export type ReadingValues = QuestionValues &
  PlanValues &
  TrialsValues &
  ModelValues &
  SetpointValues &
  ReportValues &
  AnswersValues;
