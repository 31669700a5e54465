import * as z from "zod";
import { RESULT_KINDS } from "../kinds/results";
import type { Rule } from "../messages/errors";

/**
 * The study: one question about one process, as it is stored, sent and saved. Everything a person decided is
 * here and nothing that can be computed from it. Parsed output carries every default.
 */

export const FORMAT = "trialmoor-study";
export const VERSION = 1;

const id = z
  .string()
  .min(1)
  .max(64)
  // Words that every object answers to cannot name what an object holds.
  .regex(
    /^(?!(?:constructor|toString|toLocaleString|valueOf|hasOwnProperty|isPrototypeOf|propertyIsEnumerable|__\w+__)$)[^@\s*",][^*",\r\n\t]*$/,
    "id" satisfies Rule,
  );
const name = z.string().trim().min(1).max(120);
const unit = z.string().max(24);
const number = z.number();
const level = z.string().trim().min(1).max(60);

const factorHead = {
  id,
  /** By which terms name it: A, B, … in order unless said. */
  letter: z
    .string()
    .regex(/^[A-Z][A-Za-z0-9]?$/, "letter" satisfies Rule)
    .optional(),
  /** The id unless said. */
  name: name.optional(),
  unit: unit.optional(),
  /** How far off it may be set, evenly within ± this, in its unit; not at all unless said. */
  tolerance: number.nonnegative().optional(),
  /** Whether it is set anew for every trial, or stays over the trials of a set-up. */
  change: z.enum(["easy", "hard"]).default("easy"),
  /** A retired factor keeps its trials' settings, leaves plans and models, and is held at this value. */
  retired: z.union([number, level]).optional(),
  notes: z.string().max(2000).optional(),
};

const continuous = z.strictObject({
  ...factorHead,
  kind: z.literal("continuous"),
  /** Ends of its range in its unit, low < high: coded −1 and 1. */
  low: number,
  high: number,
  /** Past these it cannot be set, whatever a wave asks for. */
  hardLow: number.optional(),
  hardHigh: number.optional(),
  /** What it is set in multiples of, counted from low; as finely as one likes unless said. */
  step: number.positive().optional(),
  /** The scale on which it is coded. */
  scale: z.enum(["linear", "log"]).default("linear"),
});
const discrete = z.strictObject({
  ...factorHead,
  kind: z.literal("discrete"),
  /** The only values it can be set to, in its unit, rising; the ends are coded −1 and 1. */
  values: z.array(number).min(2).max(100),
  scale: z.enum(["linear", "log"]).default("linear"),
});
const categorical = z.strictObject({
  ...factorHead,
  kind: z.literal("categorical"),
  /** Names of what it can be, coded so that their effects sum to nothing. */
  levels: z.array(level).min(2).max(30),
});
const factor = z.discriminatedUnion("kind", [continuous, discrete, categorical]);

/** What is measured at a trial and not set; it may enter models. */
const covariate = z.strictObject({ id, name: name.optional(), unit: unit.optional() });

/** Exponent of desirability between its ends: 1 unless said, larger for nearer to the best alone. */
const weight = z.number().positive().max(100).optional();
/** What is wanted of a response, in its unit (Derringer & Suich 1980). */
const goal = z.discriminatedUnion("aim", [
  // Nothing below low is acceptable, from high on it could not be better.
  z.strictObject({ aim: z.literal("raise"), low: number, high: number, weight }),
  // The same downwards: nothing above high is acceptable.
  z.strictObject({ aim: z.literal("lower"), low: number, high: number, weight }),
  // Best at the target, not acceptable outside low … high.
  z.strictObject({
    aim: z.literal("hit"),
    low: number,
    target: number,
    high: number,
    lowWeight: weight,
    highWeight: weight,
  }),
  // Equally good from low to high; pulled towards a target within, where one is named.
  z.strictObject({
    aim: z.literal("within"),
    low: number,
    target: number.optional(),
    high: number,
    lowWeight: weight,
    highWeight: weight,
  }),
  // Followed, not judged.
  z.strictObject({ aim: z.literal("watch") }),
]);

const response = z.strictObject({
  id,
  name: name.optional(),
  unit: unit.optional(),
  /** Weight among the goals: the exponent of its desirability in the overall one. */
  importance: z.number().positive().max(100).default(1),
  /** What it can be at all, in its unit: predictions past these are said to be impossible. */
  bounds: z.strictObject({ min: number.optional(), max: number.optional() }).optional(),
  /** Standard deviation expected of one trial, in its unit, for planning. */
  noise: z.number().positive().optional(),
  /** The smallest change worth finding between low and high of a factor, in its unit, for planning. */
  smallest: z.number().positive().optional(),
  /** Decimals it is read with. */
  decimals: z.number().int().min(0).max(10).optional(),
  goal: goal.default({ aim: "watch" }),
  /** What several values in one trial are: repeats of a measurement (unless said), or units that were made. */
  several: z.enum(["repeats", "units"]).optional(),
  /** A measured value (unless said), a share of pieces that are this or that, or a count of events per exposure. */
  measured: z.enum(RESULT_KINDS.map((k) => k.id)).optional(),
  /** Pieces, or exposure (area, length, time), of a trial that says nothing else. */
  of: z.number().positive().max(1e9).optional(),
  /** Whether trials may scatter beyond what counting gives (unless said), or pieces are independent of each other. */
  scatter: z.enum(["free", "counting"]).optional(),
  /** Pieces, or exposure, of a next lot that limits are asked of; `of` unless said. */
  lot: z.number().positive().max(1e9).optional(),
  /** Share or rate expected with every factor in its middle, for planning. */
  base: z.number().positive().optional(),
  /** What counting one more piece, or one more unit of exposure, costs, in trials; for planning. */
  pieceCost: z.number().positive().max(1000).optional(),
  /** Variance between trials expected over that of counting, for planning; 1 unless said. */
  excess: z.number().positive().max(1000).optional(),
  /** A spread: the standard deviation of another response, from repeats within trials or from trials run again. */
  spread: z.strictObject({ of: id, from: z.enum(["repeats", "replicates"]) }).optional(),
  notes: z.string().max(2000).optional(),
});

/** A straight limit of the region: Σ coefficient × setting, in natural units, at most or at least the bound. */
const limit = z.strictObject({
  /** Coefficient of each factor, by id. */
  terms: z.record(z.string(), number),
  at: z.enum(["most", "least"]),
  bound: number,
});
/** Settings that must not come together: values, levels or a span of each factor, by id. */
const forbidden = z.record(
  z.string(),
  z.union([
    z.array(z.union([level, number])).min(1),
    z.strictObject({ from: number.optional(), to: number.optional() }),
  ]),
);

/** A number in the factor's unit, or the name of a level. */
export const settingSchema = z.union([number, z.string()]);
/** A setting of each factor by id, numbers in natural units, levels by name. */
export const settingsSchema = z.record(z.string(), settingSchema);

/** What made a wave: enough to make the same trials again. */
export const recipeSchema = z
  .object({
    family: z.string().max(40),
    trials: z.number().int().nonnegative().optional(),
    replicates: z.number().int().positive().optional(),
    centre: z.number().int().nonnegative().optional(),
    blocks: z.number().int().positive().optional(),
    block: z.number().int().positive().optional(),
    generators: z.string().max(2000).optional(),
    axial: z.union([number, z.string()]).optional(),
    shrink: z.boolean().optional(),
    levels: z.string().max(2000).optional(),
    foldOver: z.boolean().optional(),
    /** The name of a set of terms, or the terms themselves. */
    terms: z.union([z.string().max(200), z.array(z.array(z.string()).max(6)).max(500)]).optional(),
    /** What the plan was adopted to tell. */
    asked: z.array(z.array(z.string()).max(6)).max(500).optional(),
    criterion: z.string().max(20).optional(),
    possible: z.union([z.string().max(200), z.array(z.array(z.string()).max(6)).max(500)]).optional(),
    keepEfficiency: number.optional(),
    keep: z.boolean().optional(),
    starts: z.number().int().positive().optional(),
    /** Set-ups of the hard factors: most in all, most trials of one, variance between over within, or as they come. */
    setups: z.number().int().positive().optional(),
    setupSize: z.number().int().positive().optional(),
    eta: z.number().nonnegative().optional(),
    randomised: z.boolean().optional(),
    seed: z.number().int().nonnegative().optional(),
    standardOrder: z.boolean().optional(),
    snap: z.boolean().optional(),
    /**
     * A follow-up: which factors it turns, moves or carries on, whether it is half of one, where it starts or stands.
     */
    factors: z.array(z.string()).max(50).optional(),
    half: z.boolean().optional(),
    of: z.array(z.string()).max(500).optional(),
    at: settingsSchema.optional(),
    step: number.optional(),
    response: z.string().optional(),
    /** Low and high of each numeric factor when the wave was planned. */
    ranges: z.record(z.string(), z.tuple([number, number])).optional(),
  })
  // Options of families that came later: a recipe keeps what makes its plan again.
  .catchall(
    z
      .unknown()
      .refine(
        (v) => ["number", "string", "boolean"].includes(typeof v) && String(v).length <= 2000,
        "recipe" satisfies Rule,
      ),
  );

const wave = z.strictObject({
  id,
  name: name.optional(),
  /** What it was planned for, in words. */
  purpose: z.string().max(200).default(""),
  /** What made it; `own` where its trials were written down by hand. */
  plan: recipeSchema.default({ family: "own" }),
});

/** What a trial is in its plan. */
export const TRIAL_KINDS = [
  "factorial",
  "axial",
  "centre",
  "optimal",
  "screen",
  "repeat",
  "path",
  "confirm",
  "other",
] as const;
/** How far a trial is; skipped ones were not run, failed ones gave no result. */
export const TRIAL_STATES = ["planned", "done", "skipped", "failed"] as const;
/** Most values of one response in one trial. */
export const MOST_REPEATS = 5000;
/** Events that were counted, and on how many pieces or how much exposure. */
export const countedSchema = z.strictObject({ events: number, of: number });
/** A value, several of one trial (null for one that is missing), events that were counted, or nothing yet. */
export const resultSchema = z.union([number, z.array(number.nullable()).max(MOST_REPEATS), countedSchema, z.null()]);

/** When the machine stood as a trial asks. */
export const setUpSchema = z.iso.datetime();

const trial = z.strictObject({
  id,
  /** The id of the wave it belongs to. */
  wave: id,
  /** Its place in the plan before it was put in run order, counted from 1 over all waves. */
  standard: z.number().int().positive().optional(),
  /** Its place in the order in which trials are run, counted from 1 over all waves. */
  order: z.number().int().positive().optional(),
  kind: z.enum(TRIAL_KINDS).default("other"),
  state: z.enum(TRIAL_STATES).default("planned"),
  note: z.string().max(4000).default(""),
  /** Whether models use it, and why not. */
  use: z.boolean().default(true),
  why: z.string().max(400).optional(),
  /** Set-up of the hard factors that the trial belongs to, counted from 1 within its wave. */
  setup: z.number().int().min(1).max(20000).optional(),
  /** What was planned, of every factor. */
  settings: settingsSchema,
  /** What was really set, where it differs; models go by it. */
  asRun: settingsSchema.optional(),
  setUp: setUpSchema.optional(),
  /** What was measured of each covariate, by id. */
  covariates: z.record(z.string(), number.nullable()).optional(),
  /** What came of each measured response, by id. */
  results: z.record(z.string(), resultSchema).default({}),
});

/** Ids of what is multiplied, a factor named twice for its square; none for the constant. */
const term = z.array(z.string()).max(6);
/** The scale a response is fitted on; a power as it is raised to. */
export const transformSchema = z.union([
  z.enum(["none", "log", "sqrt", "inverse", "logit", "asin-sqrt"]),
  z.strictObject({ power: z.number().min(-5).max(5) }),
]);
/** One step of a person, or of reducing, on the way to a model. */
export const modelStepSchema = z.strictObject({
  /** Where the way begins; terms that came in; that went out; that were set otherwise. */
  action: z.enum(["start", "in", "out"]),
  moved: z.array(term).max(500).optional(),
  /** What it was judged by; a person's own step without. */
  by: z.enum(["p", "aicc", "bic"]).optional(),
  alpha: z.number().gt(0).lt(1).optional(),
  /** p, or the criterion after it. */
  value: z.number().nullable().optional(),
  /** With how many terms it was compared. */
  compared: z.number().int().nonnegative().optional(),
  r2Predicted: z.number().nullable().optional(),
  /** Of the model after it. */
  terms: z.array(term).max(500),
});
/** One step on the way to a model, as it is kept. */
export type ModelStep = z.infer<typeof modelStepSchema>;

/** Most that set-ups may be taken to vary by, in variances of their trials. */
export const MOST_RATIO = 1000;
/** What they are taken to vary by, where nobody says. */
export const ASSUMED_RATIO = 1;

/** The model of a response that a person chose. */
export const modelSchema = z.strictObject({
  response: id,
  transform: transformSchema.default("none"),
  /** Waves as blocks, where there are two or more. */
  block: z.boolean().default(true),
  /** Where corners and centre alone were run: a column of the centre stands last in the model. */
  curvature: z.boolean().default(true),
  /** Variance between set-ups over that within, for where set-ups are too few to tell it; the plan's unless said. */
  eta: z.number().nonnegative().max(MOST_RATIO).optional(),
  /** Which parents of a term stay with it: all (unless said), one, or none. */
  hierarchy: z.enum(["strong", "weak", "off"]).optional(),
  /** Beside the constant, in model order. */
  terms: z.array(term).max(500),
  /** Other sets of terms kept for this response, to be seen side by side and averaged. */
  rivals: z.array(z.array(term).max(500)).max(40).optional(),
  /** Predictions come from the average of the rivals, weighed so. */
  average: z.enum(["akaike", "equal"]).optional(),
  /** How the terms came about, the first model first. */
  steps: z.array(modelStepSchema).max(300).optional(),
});

/** A plan weighed but not adopted: its recipe makes it again. */
const rival = z.strictObject({ id, name: z.string().trim().min(1).max(80), recipe: recipeSchema });

/** The settings chosen, and the factors that were held while they were searched for. */
export const setpointSchema = z.strictObject({ settings: settingsSchema, held: z.array(z.string()).default([]) });

/** What a person adds to the report: words of their own, and findings struck out by their key. */
const reportSchema = z.strictObject({
  paragraph: z.string().max(5000).default(""),
  struck: z.array(z.string().max(200)).max(500).default([]),
});

const price = z.number().nonnegative().max(1e9).optional();

/** What a trial, a set-up of the hard factors, a piece and a wave cost, in hours or money. */
const costsSchema = z.strictObject({
  unit: z.string().trim().min(1).max(20).optional(),
  trial: price,
  setup: price,
  piece: price,
  wave: price,
});

/** A study file, strictly: a key that is not known is refused, what is left out has its default. */
export const studySchema = z.strictObject({
  format: z.literal(FORMAT),
  version: z.literal(VERSION),
  title: z.string().trim().min(1).max(200),
  notes: z.string().max(20000).default(""),
  /** Of every interval, and one less the level of every test. */
  confidence: z.number().gt(0.5).lt(1).default(0.95),
  /** What a set-up of the hard factors costs, in trials. */
  setupCost: z.number().nonnegative().max(10000).optional(),
  costs: costsSchema.optional(),
  /** In model order, retired ones too. */
  factors: z.array(factor).max(50).default([]),
  covariates: z.array(covariate).max(20).default([]),
  responses: z.array(response).max(40).default([]),
  /** Where trials and setpoints may lie, within the ranges of the factors. */
  region: z
    .strictObject({ limits: z.array(limit).max(50).default([]), forbidden: z.array(forbidden).max(50).default([]) })
    .default({ limits: [], forbidden: [] }),
  /** In the order in which they were planned. */
  waves: z.array(wave).max(200).default([]),
  /** Of all waves. */
  trials: z.array(trial).max(20000).default([]),
  /** One a response at most. */
  models: z.array(modelSchema).max(40).default([]),
  /** Plans weighed beside one another. */
  rivals: z.array(rival).max(60).default([]),
  setpoint: setpointSchema.optional(),
  report: reportSchema.optional(),
});

type Parsed = z.output<typeof studySchema>;
/** A study file as it may be written: defaults left out. */
export type StudyInput = z.input<typeof studySchema>;

type Named = { name: string; letter: string };
export type ContinuousFactor = z.output<typeof continuous> & Named;
export type DiscreteFactor = z.output<typeof discrete> & Named;
export type CategoricalFactor = z.output<typeof categorical> & Named;
/** What is set at every trial: a number in a range, one of some numbers, or one of some levels. */
export type Factor = ContinuousFactor | DiscreteFactor | CategoricalFactor;
/** A factor whose settings are numbers. */
export type NumericFactor = ContinuousFactor | DiscreteFactor;
/** What is measured at a trial and not set. */
export type Covariate = z.output<typeof covariate> & { name: string };
/** What comes of a trial, with what is wanted of it. */
export type Response = z.output<typeof response> & { name: string };
/** What is wanted of a response. */
export type Goal = z.output<typeof goal>;
export type Limit = z.output<typeof limit>;
export type Forbidden = z.output<typeof forbidden>;
export type Recipe = z.output<typeof recipeSchema>;
/** Trials planned together: a block of its own in models. */
export type Wave = z.output<typeof wave> & { name: string };
export type Rival = z.output<typeof rival>;
/** One run of the process: what was to be set, what was set, what came. */
export type Trial = z.output<typeof trial> & { standard: number; order: number };
export type TrialKind = Trial["kind"];
/** A number in the factor's unit, or the name of a level. */
export type Setting = z.output<typeof settingSchema>;
/** A setting of each factor, by id. */
export type Settings = z.output<typeof settingsSchema>;
/** What came of one response in one trial. */
export type Result = z.output<typeof resultSchema>;
/** Ids of what is multiplied: ["a"], ["a", "b"], ["a", "a"] for a square; none for the constant. */
export type Term = z.output<typeof term>;
/** The scale a response is fitted on. */
export type Transform = z.output<typeof transformSchema>;
/** The model of a response that a person chose. */
export type Model = z.output<typeof modelSchema>;

/** A study as it is worked with: parsed and whole, never changed in place. Its fields are told at `studySchema`. */
export interface Study extends Omit<Parsed, "factors" | "covariates" | "responses" | "waves" | "trials"> {
  factors: Factor[];
  covariates: Covariate[];
  responses: Response[];
  waves: Wave[];
  trials: Trial[];
}
