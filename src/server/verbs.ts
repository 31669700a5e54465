import * as z from "zod";
import {
  additions,
  adoptPlan,
  appraiseVerb,
  checkTerms,
  edit,
  editSchema,
  type FollowOptions,
  fitVerb,
  followOptionsSchema,
  followVerb,
  planAnswer,
  planOptionsSchema,
  powerVerb,
  predictVerb,
  type Study,
  StudyError,
  surfaceVerb,
  type Term,
  type TermSetName,
  termSet,
} from "@/core";
import { compute, startInBackground } from "./jobs";
import { changeStudy, readStudy, type StoredStudy } from "./studies";

const revision = z.number().int().positive();
const settings = z.record(z.string(), z.union([z.number(), z.string()]));
const termSetName = z.enum(["main", "main+2fi", "quadratic"]);
const terms = z.union([termSetName, z.array(z.array(z.string()).max(6)).max(500)]);
const positive = z.number().positive();
const alpha = z.number().gt(0).lt(1);
const transform = z.union([
  z.enum(["none", "log", "sqrt", "inverse", "logit", "asin-sqrt"]),
  z.strictObject({ power: z.number() }),
]);
const seed = z.number().int().nonnegative();
const termsOf = (study: Study, given: z.output<typeof terms>): Term[] =>
  typeof given === "string" ? termSet(study, given as TermSetName) : checkTerms(study, given);

/** The bodies of the verbs under /api/studies/{id}/. */
export const verbSchemas = {
  waves: z.strictObject({ revision, plan: planOptionsSchema, purpose: z.string().max(200).optional() }),
  trials: z.strictObject({
    revision,
    id: z.string(),
    state: z.enum(["planned", "done", "skipped", "failed"]).optional(),
    note: z.string().max(4000).optional(),
    use: z.boolean().optional(),
    asRun: settings.nullable().optional(),
  }),
  results: z.strictObject({
    revision,
    results: z
      .array(
        z.strictObject({
          trial: z.string(),
          response: z.string(),
          value: z.union([z.number(), z.array(z.number().nullable()), z.null()]),
        }),
      )
      .min(1)
      .max(5000),
  }),
  edits: z.strictObject({
    revision,
    edits: z.array(editSchema).min(1).max(20000),
    what: z.string().max(200).optional(),
  }),
  plan: planOptionsSchema.extend({ background: z.boolean().optional() }),
  appraise: z.strictObject({
    terms: terms.optional(),
    possible: terms.optional(),
    noise: positive.optional(),
    effect: positive.optional(),
    alpha: alpha.optional(),
  }),
  fit: z.strictObject({
    response: z.string(),
    terms: terms.optional(),
    reduce: z.enum(["backward", "forward", "both"]).optional(),
    by: z.enum(["p", "aicc", "bic"]).optional(),
    alpha: alpha.optional(),
    hierarchy: z.enum(["strong", "weak", "off"]).optional(),
    transform: transform.optional(),
    block: z.boolean().optional(),
  }),
  subsets: z.strictObject({
    response: z.string(),
    terms: terms.optional(),
    hierarchy: z.enum(["strong", "weak", "off"]).optional(),
    block: z.boolean().optional(),
    predicted: z.boolean().optional(),
    average: z.boolean().optional(),
    background: z.boolean().optional(),
  }),
  predict: z.strictObject({ at: settings }),
  surface: z.strictObject({ response: z.string(), at: settings.optional(), step: positive.optional() }),
  follow: followOptionsSchema.extend({ adopt: z.boolean().optional(), revision: revision.optional() }),
  setpoint: z.strictObject({
    hold: settings.optional(),
    draws: z.number().int().min(100).max(5_000_000).optional(),
    seed: seed.optional(),
    background: z.boolean().optional(),
  }),
  power: z.strictObject({
    terms: terms.optional(),
    alpha: alpha.optional(),
    effect: positive.optional(),
    noise: positive.optional(),
    power: alpha.optional(),
    replicates: z.number().int().positive().optional(),
  }),
  rig: z.strictObject({ revision, name: z.string(), seed: seed.optional() }),
} as const;

export type VerbName = keyof typeof verbSchemas;
type Body<V extends VerbName> = z.output<(typeof verbSchemas)[V]>;

const defined = <T extends object>(o: T): { [K in keyof T]: Exclude<T[K], undefined> } =>
  Object.fromEntries(Object.entries(o).filter(([, v]) => v !== undefined)) as {
    [K in keyof T]: Exclude<T[K], undefined>;
  };

/** What each verb does with a study that was read and a body that was checked. */
export const verbs: { [V in VerbName]: (stored: StoredStudy, body: Body<V>, who: string) => Promise<object> } = {
  async waves({ id, study }, body, who) {
    const plan = await compute("plan", { study, options: body.plan });
    return changeStudy(
      id,
      body.revision,
      additions(study, adoptPlan(study, plan, body.purpose)),
      "adopted a plan",
      who,
    );
  },
  async trials({ id, study }, { revision: at, id: trial, ...patch }, who) {
    const edits = Object.entries(defined(patch)).map(([key, value]) => edit(study, ["trials", trial, key], value));
    return changeStudy(id, at, edits, "changed a trial", who);
  },
  async results({ id, study }, body, who) {
    const begun = new Set<string>();
    const edits = body.results.flatMap(({ trial, response, value }) => {
      const own = edit(study, ["trials", trial, "results", response], value);
      const state = study.trials.find((t) => t.id === trial)?.state;
      // A trial begins to count with its first result, however many come with it.
      if (state !== "planned" || value === null || begun.has(trial)) return [own];
      begun.add(trial);
      return [own, edit(study, ["trials", trial, "state"], "done")];
    });
    return changeStudy(id, body.revision, edits, "entered results", who);
  },
  edits: ({ id }, body, who) => changeStudy(id, body.revision, body.edits, body.what ?? "edited", who),
  async plan({ id, study }, { background, ...options }) {
    if (background) return startInBackground("plan", id, { study, options });
    return planAnswer(
      study,
      await compute("plan", { study, options }),
      defined({
        terms: options.terms && termsOf(study, options.terms),
        possible: options.possible && termsOf(study, options.possible),
      }),
    );
  },
  appraise: async ({ study }, { terms: t, possible, ...rest }) =>
    appraiseVerb(
      study,
      defined({ ...rest, terms: t && termsOf(study, t), possible: possible && termsOf(study, possible) }),
    ),
  fit: async ({ study }, { terms: t, ...rest }) =>
    fitVerb(study, defined({ ...rest, terms: t && termsOf(study, t) }) as Parameters<typeof fitVerb>[1]),
  async subsets({ id, study }, { background, average, ...question }) {
    if (background) return startInBackground("subsets", id, { study, ...question });
    const answer = await compute("subsets", { study, ...question });
    const { average: averaged, ...rest } = answer;
    return average ? { ...rest, average: averaged } : rest;
  },
  predict: async ({ study }, { at }) => predictVerb(study, at),
  surface: async ({ study }, body) => surfaceVerb(study, defined(body)),
  async follow({ id, study }, { adopt, revision: at, ...options }, who) {
    const { terms: t } = options;
    const { answer, follow } = followVerb(
      study,
      defined(options) as FollowOptions,
      t === undefined ? {} : { terms: termsOf(study, t) },
    );
    if (!adopt) return answer;
    if (at === undefined)
      throw new StudyError("missing", "Adopting a wave changes the study; send the revision it was planned from.", [
        "revision",
      ]);
    return changeStudy(
      id,
      at,
      additions(study, adoptPlan(study, follow.plan, follow.purpose)),
      `adopted a wave to ${follow.purpose}`,
      who,
    );
  },
  setpoint: async ({ id, study }, { background, ...rest }) =>
    background ? startInBackground("setpoint", id, { study, ...rest }) : compute("setpoint", { study, ...rest }),
  power: async ({ study }, { terms: t, alpha: a, ...rest }) => {
    const question = defined(rest);
    const all = Object.keys(question).length === 4;
    return powerVerb(study, termsOf(study, t ?? "main"), {
      ...(a === undefined && all ? {} : { alpha: a ?? 1 - study.confidence }),
      ...question,
    });
  },
  async rig({ id, study }, body, who) {
    const { ran } = await compute("rig", {
      study,
      name: body.name,
      ...(body.seed === undefined ? {} : { seed: body.seed }),
    });
    const edits = ran.flatMap((t) => [
      edit(study, ["trials", t.id, "results"], t.results),
      edit(study, ["trials", t.id, "state"], "done"),
    ]);
    return changeStudy(id, body.revision, edits, `ran the ${body.name} rig`, who);
  },
};

/** Reads the study and runs a verb on it. */
export const runVerb = async <V extends VerbName>(id: string, verb: V, body: Body<V>, who: string): Promise<object> =>
  verbs[verb](await readStudy(id), body, who);
