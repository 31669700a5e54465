import { regularOf } from "../appraisal/aliasing";
import { generateWords, missingFractions, wordLength, wordText } from "../appraisal/defining-words";
import { pointModel } from "../appraisal/terms-info";
import type { RemarkValues } from "../messages/remarks";
import type { Said } from "../messages/said";
import { makePlan } from "../plans/make-plan";
import { FOLLOW_KINDS } from "../plans/plan";
import { activeFactors, isNumeric, plannedRange, snap } from "../study/coding";
import { StudyError } from "../study/error";
import type { Factor, Settings, Study, Trial } from "../study/schema";
import { termSet } from "../terms/candidates";
import { type FollowOptions, type FollowRuns, namedFactors } from "./options";

const MOST_MISSING = 63;

/**
 * The latest wave of corners that is not itself a follow-up.
 * @throws StudyError `no-corners`
 */
function cornersOf(study: Study): { wave: Study["waves"][number]; trials: Trial[] } {
  const inWave = (t: Trial): boolean =>
    t.state !== "skipped" &&
    t.state !== "failed" &&
    (t.kind === "factorial" || t.kind === "screen" || t.kind === "optimal");
  const wave = [...study.waves]
    .reverse()
    .find(
      (w) =>
        !(FOLLOW_KINDS as readonly string[]).includes(w.plan.family) &&
        study.trials.filter((t) => t.wave === w.id && inWave(t)).length >= 4,
    );
  if (!wave) throw new StudyError("no-corners", {}, ["waves"]);
  return { wave, trials: study.trials.filter((t) => t.wave === wave.id && inWave(t)) };
}

/** The opposite of a setting within the range its wave was planned with. */
function opposite(study: Study, wave: string, f: Factor, value: number | string): number | string {
  if (!isNumeric(f)) return f.levels[0] === value ? f.levels[1] : f.levels[0];
  const [low, high] = plannedRange(study, wave, f);
  const turned = f.scale === "log" ? (low * high) / (value as number) : low + high - (value as number);
  return snap(f, turned, true);
}

/** How many main effects and pairs a set of points tells apart: the rank of their columns. */
const tells = (study: Study, settings: readonly Settings[], waves: readonly string[]): number =>
  pointModel(study, { settings: [...settings], waves: [...waves] }, termSet(study, "main+2fi")).rank.rank;

/**
 * Fold-over (Box & Hunter 1961): the latest wave of corners again with the factors named (all unless said) at their
 * opposite ends. Half of it (Mee & Peralta 2000) keeps the half that tells most apart.
 * @throws StudyError `wide-category`, `fold-over-idle`, `no-half`
 */
export function foldOver(study: Study, options: FollowOptions): FollowRuns {
  const { wave, trials } = cornersOf(study);
  const active = activeFactors(study);
  const named = namedFactors(study, options.factors);
  const turned = named.length > 0 ? named : options.half ? [bestToTurn(study, wave.id, trials)] : active;
  const wide = turned.find((f) => !isNumeric(f) && f.levels.length > 2);
  if (wide) throw new StudyError("wide-category.factor", { factor: wide.name }, ["factors"]);
  const fold = (t: Trial): Settings => ({
    ...t.settings,
    ...Object.fromEntries(turned.map((f) => [f.id, opposite(study, wave.id, f, t.settings[f.id])])),
  });
  let runs = trials.map((t) => ({ settings: fold(t), kind: "factorial" as const }));
  const cautions: Said<RemarkValues>[] = [];
  const regular = regularOf(study, { settings: trials.map((t) => t.settings), waves: trials.map((t) => t.wave) });
  if (regular) {
    const mask = regular.factors.reduce((m, f, j) => (turned.some((t) => t.id === f.id) ? m | (1 << j) : m), 0);
    const odd = generateWords(regular.plan.basis)
      .filter((w) => wordLength(w.mask & mask) % 2 === 1)
      .map((w) =>
        wordText(
          w,
          regular.factors.map((f) => f.letter),
        ),
      );
    if (regular.definingRelation.length > 0 && odd.length === 0)
      throw new StudyError("fold-over-idle", { words: regular.definingRelation.slice(0, 3) }, ["factors"]);
    if (odd.length > 0) cautions.push({ code: "fold-block", values: { words: odd.slice(0, 3), more: odd.length > 3 } });
  }
  if (options.half) {
    const halves = active
      .filter((f) => isNumeric(f) || f.levels.length === 2)
      .flatMap((f) => {
        const ends = [...new Set(runs.map((r) => r.settings[f.id]))];
        return ends.length === 2 ? ends.map((end) => runs.filter((r) => r.settings[f.id] === end)) : [];
      })
      .filter((half) => half.length * 2 === runs.length);
    if (halves.length === 0) throw new StudyError("no-half", {}, ["half"]);
    const base = trials.map((t) => t.settings);
    runs = halves
      .map((half) => ({
        half,
        separated: tells(
          study,
          [...base, ...half.map((r) => r.settings)],
          [...base.map(() => "a"), ...half.map(() => "b")],
        ),
      }))
      .reduce((a, b) => (b.separated > a.separated ? b : a)).half;
  }
  if (options.centre) cautions.push({ code: "fold-centre", values: {} });
  return { runs, recipe: { factors: turned.map((f) => f.id) }, cautions };
}

/**
 * The one factor whose turning, in halves, tells most apart.
 * @throws StudyError `wide-category`
 */
function bestToTurn(study: Study, wave: string, trials: readonly Trial[]): Factor {
  const base = trials.map((t) => t.settings);
  const able = activeFactors(study).filter((f) => isNumeric(f) || f.levels.length === 2);
  if (able.length === 0) throw new StudyError("wide-category.all", {}, ["factors"]);
  return able
    .map((f) => {
      const turned = trials.map((t) => ({ ...t.settings, [f.id]: opposite(study, wave, f, t.settings[f.id]) }));
      return { f, separated: tells(study, [...base, ...turned], [...base.map(() => "a"), ...turned.map(() => "b")]) };
    })
    .reduce((a, b) => (b.separated > a.separated ? b : a)).f;
}

/** Where the family is too large to list: the fractions that differ in the sign of one generator, and of all. */
function oneTurned(generators: string): string[] {
  const parts = generators.split(/[,;]/).map((g) => g.trim());
  const turn = (g: string): string => (/=\s*[-−]/.test(g) ? g.replace(/=\s*[-−]/, "=") : g.replace("=", "=-"));
  return [parts.map(turn).join(","), ...parts.map((_, i) => parts.map((g, j) => (i === j ? turn(g) : g)).join(","))];
}

/**
 * The fraction of the same family, not yet run, that makes most of the whole: highest resolution, fewest short words.
 * @throws StudyError `not-a-fraction`, `all-run`
 */
export function missingFraction(study: Study, options: FollowOptions): FollowRuns {
  const { wave, trials } = cornersOf(study);
  const { generators } = wave.plan;
  if (!generators) throw new StudyError("not-a-fraction", { wave: wave.name }, ["waves"]);
  const run = new Set(study.waves.flatMap((w) => (w.plan.generators ? [w.plan.generators.replaceAll(" ", "")] : [])));
  const family = missingFractions(generators);
  const left = (family.length > 0 ? family : oneTurned(generators)).filter((g) => !run.has(g)).slice(0, MOST_MISSING);
  if (left.length === 0) throw new StudyError("all-run", {}, ["waves"]);
  const base = trials.map((t) => t.settings);
  const offers = left.map((g) => {
    const plan = makePlan(
      { ...study, trials: [], waves: [] },
      { family: "fraction", generators: g, standardOrder: true, seed: options.seed ?? 1 },
    );
    const settings = plan.trials.map((t) => t.settings);
    const regular = regularOf(study, { settings: [...base, ...settings], waves: [...base, ...settings].map(() => "") });
    return {
      g,
      settings,
      resolution: regular ? (regular.resolution ?? 99) : 0,
      words: regular?.wordLengthPattern ?? [],
    };
  });
  const best = offers.reduce((a, b) =>
    b.resolution > a.resolution || (b.resolution === a.resolution && fewer(b.words, a.words)) ? b : a,
  );
  const before = regularOf(study, { settings: base, waves: base.map(() => "") });
  const parted = before?.definingRelation ?? [];
  return {
    runs: best.settings.map((settings) => ({ settings, kind: "factorial" as const })),
    recipe: { generators: best.g },
    cautions: parted.length > 0 ? [{ code: "fraction-block", values: {} }] : [],
  };
}

/** Whether one word-length pattern has fewer short words than another. */
function fewer(a: readonly number[], b: readonly number[]): boolean {
  for (let i = 0; i < Math.max(a.length, b.length); i++)
    if ((a[i] ?? 0) !== (b[i] ?? 0)) return (a[i] ?? 0) < (b[i] ?? 0);
  return false;
}
