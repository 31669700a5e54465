import * as z from "zod";
import {
  type Ask,
  type FollowOffer,
  type SightsStep,
  sightSteps,
  type TradePoint,
  tradeSteps,
} from "./appraisal/sight";
import { type Check, runChecks } from "./model/checks";
import { storedModel } from "./model/data";
import { presentFit } from "./model/fit";
import { type SubsetsResult, searchSubsets } from "./model/subsets";
import { FOLLOW_KINDS } from "./plans/follow-up/options";
import { planSteps } from "./plans/make-plan";
import type { PlanOptions } from "./plans/options";
import type { Plan } from "./plans/plan";
import { modelReadings } from "./readings/model";
import { nextWaves } from "./readings/next-wave";
import type { Reading } from "./readings/reading";
import { trialsReadings } from "./readings/trials";
import { runRig } from "./rigs";
import { wishesOf } from "./setpoint/goals";
import { type SearchResult, searchSetpoint } from "./setpoint/search";
import { StudyError } from "./study/error";
import type { Study, Trial } from "./study/schema";
import { issueError, parseStudy } from "./study/validate";
import { termSet } from "./terms/candidates";
import { checkTerms } from "./terms/term";
import { completeFollow } from "./use-cases";

/** What a long computation says while it runs. */
export interface JobProgress {
  /** Share done, 0 … 1. */
  done: number;
  text: string;
  best?: unknown;
}

const settings = z.record(z.string(), z.union([z.number(), z.string()]));
const termList = z.union([z.enum(["main", "main+2fi", "quadratic"]), z.array(z.array(z.string()).max(6)).max(500)]);
const count = z.number().int().positive();

/** What a plan is asked for, as it comes through any door. */
export const planOptionsSchema = z.strictObject({
  family: z.string(),
  trials: count.optional(),
  replicates: count.optional(),
  centre: z.number().int().nonnegative().optional(),
  blocks: count.optional(),
  generators: z.string().max(2000).optional(),
  axial: z.union([z.number(), z.string().max(40)]).optional(),
  shrink: z.boolean().optional(),
  levels: z.string().max(2000).optional(),
  foldOver: z.boolean().optional(),
  terms: termList.optional(),
  criterion: z.enum(["D", "A", "I"]).optional(),
  possible: termList.optional(),
  keepEfficiency: z.number().optional(),
  starts: count.max(100_000).optional(),
  keep: z.boolean().optional(),
  seed: z.number().int().nonnegative().optional(),
  standardOrder: z.boolean().optional(),
  snap: z.boolean().optional(),
});

/** What a next wave is asked for, as it comes through any door. */
export const followOptionsSchema = z.strictObject({
  kind: z.enum(FOLLOW_KINDS),
  factors: z.array(z.string()).max(50).optional(),
  half: z.boolean().optional(),
  trials: count.optional(),
  centre: z.number().int().nonnegative().optional(),
  terms: termList.optional(),
  axial: z.union([z.number(), z.string().max(40)]).optional(),
  at: settings.optional(),
  of: z.array(z.string()).max(500).optional(),
  response: z.string().optional(),
  step: z.number().positive().optional(),
  seed: z.number().int().nonnegative().optional(),
  standardOrder: z.boolean().optional(),
});
const inputs = {
  setpoint: z.strictObject({
    study: z.unknown(),
    hold: settings.optional(),
    draws: z.number().int().min(100).max(5_000_000).optional(),
    seed: z.number().int().nonnegative().optional(),
  }),
  rig: z.strictObject({ study: z.unknown(), name: z.string(), seed: z.number().int().nonnegative().optional() }),
  sights: z.strictObject({
    study: z.unknown(),
    ask: z.custom<Ask>((v) => typeof v === "object" && v !== null),
    rivals: z.boolean().optional(),
  }),
  plan: z.strictObject({ study: z.unknown(), options: planOptionsSchema }),
  trade: z.strictObject({ study: z.unknown(), options: planOptionsSchema }),
  subsets: z.strictObject({
    study: z.unknown(),
    response: z.string(),
    terms: termList.optional(),
    hierarchy: z.enum(["strong", "weak", "off"]).optional(),
    block: z.boolean().optional(),
    predicted: z.boolean().optional(),
  }),
  evidence: z.strictObject({
    study: z.unknown(),
    of: z.discriminatedUnion("station", [
      z.strictObject({ station: z.literal("model"), response: z.string() }),
      z.strictObject({ station: z.literal("trials") }),
    ]),
  }),
};

/** What takes longer to read off a study than a frame of the screen lasts. */
export interface StationEvidence {
  /** Of the response's present model; none on Trials. */
  checks: Check[];
  readings: Reading[];
}

interface Outputs {
  setpoint: SearchResult;
  rig: { study: Study; ran: Trial[] };
  plan: Plan;
  sights: SightsStep;
  trade: TradePoint[];
  subsets: SubsetsResult;
  evidence: StationEvidence;
}

export type JobName = keyof typeof inputs;
export type JobInput<N extends JobName> = z.input<(typeof inputs)[N]>;
export type JobOutput<N extends JobName> = Outputs[N];

function* setpoint(input: z.output<typeof inputs.setpoint>): Generator<JobProgress, SearchResult, boolean | undefined> {
  const wishes = wishesOf(parseStudy(input.study));
  const search = searchSetpoint(wishes, {
    ...(input.hold ? { hold: input.hold } : {}),
    ...(input.draws ? { draws: input.draws } : {}),
    seed: input.seed ?? 1,
  });
  for (;;) {
    const step = search.next();
    if (step.done) return step.value;
    yield { done: step.value.done, text: step.value.of, best: step.value.best };
  }
}

function* rig(input: z.output<typeof inputs.rig>): Generator<JobProgress, Outputs["rig"], boolean | undefined> {
  const study = parseStudy(input.study);
  const total = study.trials.filter((t) => t.state === "planned").length;
  const ran: Trial[] = [];
  const running = runRig(study, input.name, input.seed ?? 1);
  for (;;) {
    const step = running.next();
    if (step.done) return { study: step.value, ran };
    ran.push(step.value);
    yield { done: ran.length / total, text: `trial ${step.value.order}`, best: step.value };
  }
}

/** A plan of any family; sent `true` it ends with the best so far. */
function* plan(input: z.output<typeof inputs.plan>): Generator<JobProgress, Plan, boolean | undefined> {
  const steps = planSteps(parseStudy(input.study), input.options as PlanOptions);
  let step = steps.next();
  while (!step.done) {
    const { done, text, best } = step.value;
    step = steps.next(yield { done, text: best ? `${text}; ${best.measure} ${best.value.toFixed(3)}` : text });
  }
  return step.value;
}

/** All plans in sight of what is asked, those that are searched for joining as they are found. */
function* sights(input: z.output<typeof inputs.sights>): Generator<JobProgress, SightsStep, boolean | undefined> {
  const study = parseStudy(input.study);
  const follows = nextWaves(study).flatMap((offer): FollowOffer[] => {
    try {
      return [{ ...offer, options: completeFollow(study, offer.options) }];
    } catch (error) {
      // A path that no model can draw is no offer.
      if (error instanceof StudyError) return [];
      throw error;
    }
  });
  const steps = sightSteps(study, input.ask, input.rivals === false ? [] : study.rivals, follows);
  let step = steps.next();
  let told: SightsStep["sights"] = [];
  while (!step.done) {
    const { done, text } = step.value;
    // The plans themselves go along only when one has joined.
    const best = step.value.sights === told ? {} : { best: step.value };
    told = step.value.sights;
    step = steps.next(yield { done, text, ...best });
  }
  return step.value;
}

/** The curve of least aliasing against D-efficiency kept. */
function* trade(input: z.output<typeof inputs.trade>): Generator<JobProgress, TradePoint[], boolean | undefined> {
  const steps = tradeSteps(parseStudy(input.study), input.options as PlanOptions);
  let step = steps.next();
  while (!step.done) {
    const { done, text, points } = step.value;
    step = steps.next(yield { done, text, best: points });
  }
  return step.value;
}

/** All subsets of the candidate terms of one response: main effects and interactions unless others are named. */
function* subsets(input: z.output<typeof inputs.subsets>): Generator<JobProgress, SubsetsResult, boolean | undefined> {
  const study = parseStudy(input.study);
  const asked = input.terms ?? "main+2fi";
  const terms = typeof asked === "string" ? termSet(study, asked) : checkTerms(study, asked);
  const stored = storedModel(study, input.response);
  return yield* searchSubsets(study, input.response, terms, {
    hierarchy: input.hierarchy ?? "strong",
    transform: stored?.transform ?? "none",
    block: input.block ?? stored?.block ?? true,
    ...(input.predicted === undefined ? {} : { predicted: input.predicted }),
  });
}

/** The checks and readings of a response's present model, or the readings of the ledger. */
// biome-ignore lint/correctness/useYield: one step, over in a tenth of a second; it shares the shape of the long ones.
function* evidence(
  input: z.output<typeof inputs.evidence>,
): Generator<JobProgress, StationEvidence, boolean | undefined> {
  const study = parseStudy(input.study);
  if (input.of.station === "trials") return { checks: [], readings: trialsReadings(study) };
  const fit = presentFit(study, input.of.response);
  return { checks: runChecks(study, fit), readings: modelReadings(study, fit) };
}

const bodies: { [N in JobName]: (input: never) => Generator<JobProgress, JobOutput<N>, boolean | undefined> } = {
  setpoint,
  rig,
  plan,
  sights,
  trade,
  subsets,
  evidence,
};

/**
 * Starts a named long computation: the same pure function in page worker, server thread and command.
 * @throws StudyError for an unknown name or a bad input
 */
export function startJob<N extends JobName>(
  name: N,
  input: unknown,
): Generator<JobProgress, JobOutput<N>, boolean | undefined> {
  const schema = inputs[name];
  if (!schema) throw new StudyError("unknown-job", `There is no computation called “${name}”.`, ["job"]);
  const parsed = schema.safeParse(input);
  if (!parsed.success) throw issueError(parsed.error.issues[0], input);
  return (bodies[name] as (input: unknown) => Generator<JobProgress, JobOutput<N>, boolean | undefined>)(parsed.data);
}

/** Runs a generator to its end in one go. */
export function finish<T>(steps: Iterator<unknown, T, undefined>): T {
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
  }
}
