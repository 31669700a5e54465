import { type Random, seededRandom } from "../numerics/random";
import { codedSettings, decode, isNumeric, middle, rangeOf, snap } from "../study/coding";
import { StudyError } from "../study/error";
import { allowed, typableSettings } from "../study/region";
import { activeFactors, hardFactors, heldAt, heldSettings } from "../study/roles";
import { ASSUMED_RATIO, type Recipe, type Settings, type Study } from "../study/schema";
import { termSet } from "../terms/candidates";
import { categoryCombinations } from "./combinations";
import { MOST_PLANNED, type PlanOptions } from "./options";
import type { BasePlan, Plan, PlanFamily, PlannedTrial, PlanProgress, Run } from "./plan";
import { hardKey, intoSetups, type SetupsWanted, suggestedSetups } from "./setups";

/** Natural settings of a coded point; retired factors at the value they are held at. */
export function naturalSettings(study: Study, coded: Settings, snapped: boolean): Settings {
  const out: Settings = {};
  for (const f of study.factors) {
    const held = heldAt(f);
    if (held !== undefined) out[f.id] = held;
    else if (isNumeric(f)) {
      const x = coded[f.id] as number;
      const value = decode(f, x);
      out[f.id] = snapped || f.kind === "discrete" ? snap(f, value, Math.abs(x) > 1 + 1e-9) : value;
    } else out[f.id] = coded[f.id];
  }
  return out;
}

/** Whether a plan of these factors can have centre points: some number has a middle, and none has only two values. */
export const canCentre = (study: Study): boolean =>
  activeFactors(study).some(isNumeric) &&
  !activeFactors(study).some((f) => f.kind === "discrete" && f.values.length === 2);

/**
 * Centre points in all, spread over category combinations and blocks in turn; those the region forbids are passed
 * over.
 * @throws StudyError `no-centre`
 */
export function centreRuns(study: Study, count: number, blocks: number, snapped: boolean): Run[] {
  const factors = activeFactors(study);
  if (count === 0) return [];
  if (!factors.some(isNumeric)) throw new StudyError("no-centre.categories", {}, ["centre"]);
  const stuck = factors.find((f) => f.kind === "discrete" && f.values.length === 2);
  if (stuck) throw new StudyError("no-centre.two-values", { factor: stuck.name }, ["centre"]);
  const base = heldSettings(study);
  for (const f of factors)
    if (isNumeric(f)) base[f.id] = snapped || f.kind === "discrete" ? snap(f, middle(f)) : middle(f);
  const combinations = categoryCombinations(factors).map((c) => ({ ...base, ...c }));
  const open = combinations.filter((s) => allowed(study, s));
  if (open.length === 0) throw new StudyError("no-centre.region", {}, ["centre"]);
  return Array.from({ length: count }, (_, i) => ({
    settings: open[Math.floor(i / blocks) % open.length],
    kind: "centre" as const,
    block: i % blocks,
  }));
}

/** Random order with centre points spread evenly from first to last. */
function runOrder<R extends Run>(runs: readonly R[], random: Random): R[] {
  const centres = random.shuffled(runs.filter((r) => r.kind === "centre"));
  const others = random.shuffled(runs.filter((r) => r.kind !== "centre"));
  const total = runs.length;
  const positions = new Set<number>();
  centres.forEach((_, i) => {
    let slot = centres.length === 1 ? Math.floor(total / 2) : Math.round((i * (total - 1)) / (centres.length - 1));
    while (positions.has(slot)) slot++;
    positions.add(slot);
  });
  const out: R[] = [];
  for (let i = 0; i < total; i++) out.push((positions.has(i) ? centres.shift() : others.shift()) as R);
  return out;
}

/** Set-ups in random order, and the trials of each in random order; as they come where no order is wanted. */
function setupOrder<R extends Run>(runs: readonly R[], random: Random | undefined): R[] {
  const groups = new Map<number, R[]>();
  for (const run of runs) {
    const setup = run.setup as number;
    groups.set(setup, [...(groups.get(setup) ?? []), run]);
  }
  const all = [...groups.values()];
  return (random ? random.shuffled(all).map((members) => random.shuffled(members)) : all).flat();
}

/**
 * Runs with the set-up each belongs to where nothing has set them apart: one for every setting of the hard factors, or,
 * where the order is kept as it is, one until these settings change. Confirmations are set up anew each: what they are
 * compared with is a trial in a set-up of its own.
 */
function withSetups<R extends Run>(study: Study, runs: readonly R[], inOrder: boolean): R[] {
  const known = new Map<string, number>();
  let next = runs.reduce((m, r) => Math.max(m, (r.setup ?? -1) + 1), 0);
  let before: string | undefined;
  return runs.map((run) => {
    if (run.setup !== undefined) return run;
    const key = `${run.block}|${hardKey(study, run.settings)}`;
    const fresh = run.kind === "confirm" || (inOrder ? key !== before : !known.has(key));
    before = key;
    if (fresh) known.set(key, next++);
    return { ...run, setup: known.get(key) as number };
  });
}

/**
 * A count as it was asked for, or its fallback.
 * @throws StudyError `bad-count`
 */
function wholeNumber(
  value: number | undefined,
  fallback: number,
  least: number,
  name: string,
  most = MOST_PLANNED,
): number {
  const v = value ?? fallback;
  if (!Number.isInteger(v) || v < least || v > most)
    throw new StudyError("bad-count.between", { name, value: v, least, most }, [name]);
  return v;
}

const freshId = (taken: Set<string>, stem: string, from: number): string => {
  for (let i = from; ; i++) {
    const id = `${stem}${i}`;
    if (!taken.has(id)) {
      taken.add(id);
      return id;
    }
  }
};

/** Highest number in ids like `t12`, so that ids of deleted trials are not used again while later ones stand. */
const highest = (ids: readonly string[], stem: string): number =>
  ids.reduce(
    (m, id) =>
      id.startsWith(stem) && /^\d+$/.test(id.slice(stem.length)) ? Math.max(m, Number(id.slice(stem.length))) : m,
    0,
  );

/** Centre runs in natural settings for families that must know of them while they search. */
export const centreSettingsOf = (study: Study, count: number, blocks: number, snapped: boolean): Settings[] =>
  centreRuns(study, count, blocks, snapped).map((r) => r.settings);

/**
 * How copies of a plan fall to blocks: each copy has blocks of its own where they go evenly, several copies share one
 * where blocks can be filled with whole copies, which confounds nothing; else all copies are split alike.
 */
function dealt(blocks: number, replicates: number): { inner: number; together: number } {
  if (blocks > 1 && replicates % blocks === 0) return { inner: 1, together: replicates / blocks };
  if (replicates > 1 && blocks % replicates === 0) return { inner: blocks / replicates, together: 1 };
  return { inner: blocks, together: replicates };
}

/**
 * Turns base runs into trials: natural settings on their steps, runs outside the region dropped, replicates and
 * centre points added, order randomised from the seed within each block, each block a wave.
 * @throws StudyError `no-factors`, `family-unfit`, `bad-blocks`, `too-many-trials`, `empty-region`
 */
export function* arrange(
  study: Study,
  family: PlanFamily,
  options: PlanOptions,
): Generator<PlanProgress, Plan, boolean | undefined> {
  const seed = wholeNumber(options.seed, 1, 0, "seed", 2 ** 32 - 1);
  const replicates = wholeNumber(options.replicates, 1, 1, "replicates");
  const centre = wholeNumber(options.centre, 0, 0, "centre");
  const blocks = wholeNumber(options.blocks, 1, 1, "blocks");
  if (options.trials !== undefined) wholeNumber(options.trials, 1, 1, "trials");
  const factors = activeFactors(study);
  if (factors.length === 0) throw new StudyError("no-factors", {}, ["factors"]);
  const refusal = family.unfit(study);
  if (refusal) throw new StudyError("family-unfit", { why: refusal }, ["family"]);
  const random = seededRandom(seed);
  const hard = hardFactors(study).length > 0;
  // Centre points need a set-up of their own unless hard factors are categories, which have no middle.
  const apartCentre = centre > 0 && hardFactors(study).some(isNumeric) ? 1 : 0;
  if (!hard && (options.setups !== undefined || options.setupSize !== undefined || options.randomised))
    throw new StudyError("no-hard-factor", {}, ["setups"]);
  const purpose = family.purpose(options);
  const terms = typeof purpose === "string" ? termSet(study, purpose) : purpose;
  const eta = options.eta ?? ASSUMED_RATIO;
  const most =
    hard && !options.randomised ? (options.setups ?? suggestedSetups(study, terms) + apartCentre) : undefined;
  const { inner, together } = dealt(blocks, replicates);
  // A family builds one copy: where copies are run in blocks of their own, it is told what falls to one set of these.
  const apart = inner < blocks;
  const built = family.build(
    study,
    {
      ...options,
      seed,
      blocks: inner,
      replicates: together,
      centre: apart ? Math.floor((centre * inner) / blocks) : centre,
      unevenCopies: apart && (centre * inner) % blocks !== 0,
      ...(most === undefined ? {} : { setups: Math.floor(most / replicates) - apartCentre, eta }),
      ...(most !== undefined && options.setups === undefined ? { openSetups: true } : {}),
    },
    random,
  );
  const base: BasePlan = "points" in built ? built : yield* built;
  if (inner > 1 && !base.blocks) throw new StudyError("bad-blocks.family", { family: family.label }, ["blocks"]);
  const snapped = options.snap !== false;
  const searched = !("points" in built);
  if (base.points.length * replicates + centre > MOST_PLANNED)
    throw new StudyError(
      "too-many-trials.plan",
      { trials: base.points.length * replicates + centre, most: MOST_PLANNED },
      ["trials"],
    );

  let excluded = 0;
  const runs: Run[] = [];
  const perCopy = base.setups ? Math.max(...base.setups) + 1 : 0;
  for (let r = 0; r < replicates; r++)
    base.points.forEach((point, i) => {
      const exact = naturalSettings(study, point, snapped);
      // A search ends wherever it ends: what cannot be typed is rounded to what can, and judged so.
      const settings = searched && snapped ? typableSettings(study, exact) : exact;
      const block = (base.blocks?.[i] ?? 0) + Math.floor(r / together) * inner;
      if (!allowed(study, settings)) excluded++;
      else
        runs.push({
          settings,
          kind: base.kinds?.[i] ?? base.kind,
          block,
          ...(base.setups ? { setup: base.setups[i] + r * perCopy } : {}),
        });
    });
  if (runs.length === 0) throw new StudyError("empty-region.plan", {}, ["region"]);
  runs.push(...centreRuns(study, centre, blocks, snapped));

  const recipe: Recipe = { family: family.id, trials: base.points.length, replicates, centre, blocks, seed };
  Object.assign(recipe, base.recipe);
  if (options.standardOrder) recipe.standardOrder = true;
  if (!snapped) recipe.snap = false;
  recipe.ranges = Object.fromEntries(factors.filter(isNumeric).map((f) => [f.id, rangeOf(f)]));
  const size = options.setupSize ?? Number.POSITIVE_INFINITY;
  const open = options.setups === undefined;
  const laid = most === undefined ? runs : grouped(study, runs, { most, open, size, eta, terms }, random);
  if (most !== undefined) recipe.setups = options.setups ?? new Set(laid.map((r) => r.setup)).size;
  if (options.setupSize !== undefined) recipe.setupSize = options.setupSize;
  if (options.eta !== undefined) recipe.eta = options.eta;
  if (options.randomised) recipe.randomised = true;
  return layOut(
    study,
    {
      runs: laid,
      recipe,
      seed,
      excluded,
      ...(options.standardOrder ? { standardOrder: true } : {}),
      ...(options.randomised ? { resetOnChange: true } : {}),
    },
    random,
  );
}

/** Runs in their set-ups; each in one of its own where as many are wanted as there are runs. */
function grouped(study: Study, runs: readonly Run[], wanted: SetupsWanted, random: Random): Run[] {
  if (wanted.most >= runs.length) return runs.map((r, i) => ({ ...r, setup: i }));
  const counts = new Map<number, number>();
  const numbered = runs.map((r) => {
    const standard = (counts.get(r.block) ?? 0) + 1;
    counts.set(r.block, standard);
    return { ...r, standard };
  });
  return intoSetups(study, numbered, wanted, random);
}

/** Runs to be made trials of: in standard order, each with the block (a wave) it belongs to. */
export interface Layout {
  runs: readonly Run[];
  recipe: Recipe;
  seed: number;
  excluded: number;
  /** Keep the runs as they stand. */
  standardOrder?: boolean;
  /** In random order over all trials, hard factors reset where they change. */
  resetOnChange?: boolean;
}

/**
 * Gives runs their ids, waves and run order, going on from what the ledger holds; the order is random from the seed
 * within each wave.
 */
export function layOut(
  study: Study,
  { runs, recipe, seed, excluded, standardOrder, resetOnChange }: Layout,
  random = seededRandom(seed),
): Plan {
  const factors = activeFactors(study);
  const hard = hardFactors(study).length > 0;
  const blocks = runs.reduce((m, r) => Math.max(m, r.block), 0) + 1;
  const taken = new Set([...study.trials.map((t) => t.id), ...study.waves.map((w) => w.id)]);
  const firstWave =
    Math.max(
      study.waves.length,
      highest(
        study.waves.map((w) => w.id),
        "w",
      ),
    ) + 1;
  const waves = Array.from({ length: blocks }, (_, b) => ({
    id: freshId(taken, "w", firstWave + b),
    name: `Wave ${study.waves.length + 1 + b}`,
    recipe: { ...recipe, block: b + 1 },
  }));
  let order = study.trials.reduce((m, t) => Math.max(m, t.order), 0);
  let next =
    Math.max(
      study.trials.length,
      highest(
        study.trials.map((t) => t.id),
        "t",
      ),
    ) + 1;
  const trials: PlannedTrial[] = [];
  waves.forEach((wave, b) => {
    const inBlock = runs.filter((r) => r.block === b).map((run, i) => ({ ...run, standard: run.standard ?? i + 1 }));
    const inTurn = standardOrder === true || resetOnChange === true;
    const given = !standardOrder && (resetOnChange || !hard) ? runOrder(inBlock, random) : inBlock;
    const known = hard ? withSetups(study, given, inTurn) : given;
    const ordered = hard ? setupOrder(known, inTurn ? undefined : random) : known;
    const setups = new Map<number | undefined, number>();
    for (const run of ordered) {
      if (!setups.has(run.setup)) setups.set(run.setup, setups.size + 1);
      trials.push({
        id: freshId(taken, "t", next++),
        standard: run.standard,
        order: ++order,
        wave: wave.id,
        kind: run.kind,
        ...(hard ? { setup: setups.get(run.setup) as number } : {}),
        settings: { ...run.settings },
        coded: codedSettings(factors, run.settings),
      });
    }
  });
  return { family: recipe.family, seed, recipe, waves, trials, excluded };
}
