import { rankReport } from "../../numerics/least-squares";
import type { Random } from "../../numerics/random";
import { code, isNumeric } from "../../study/coding";
import { StudyError } from "../../study/error";
import { activeFactors, isHard, isUsable } from "../../study/roles";
import { ASSUMED_RATIO, type Factor, type Settings, type Study, type Term, type Trial } from "../../study/schema";
import { type TermSetName, termSet } from "../../terms/candidates";
import { alphabetOf, checkTerms, termName } from "../../terms/term";
import { centreSettingsOf } from "../arrange";
import type { PlanOptions } from "../options";
import { betweenColumns, hardKey } from "../setups";
import { type Columns, compileColumns } from "./columns";
import type { Problem } from "./exchange";
import { type Row, type Space, searchSpace } from "./space";
import type { Split } from "./split-state";

/** Beyond this a search could not be stopped within reason: columns of the model, and products of one pass. */
const MOST_COLUMNS = 300;
const MOST_WORK = 4e9;

export const termsAsked = (study: Study, asked: TermSetName | Term[] | undefined, fallback: TermSetName): Term[] =>
  (asked === undefined
    ? termSet(study, fallback)
    : typeof asked === "string"
      ? termSet(study, asked)
      : checkTerms(study, asked)
  ).filter((t) => t.length > 0);

/** A search's question in its own terms, from a study and what was asked. */
export interface SearchQuestion {
  problem: Problem;
  /** Where hard factors are kept over several runs. */
  split: Split | undefined;
  terms: Term[];
  points(rows: readonly Row[]): Settings[];
}

const rowOf = (space: Space, settings: Settings, block: number): Row =>
  Float64Array.from([
    ...space.factors.map((f) =>
      isNumeric(f) ? code(f, settings[f.id] as number) : f.levels.indexOf(settings[f.id] as string),
    ),
    block,
  ]);

/** Rank of the model's columns on some rows. */
function rankOf(columns: Columns, rows: readonly Row[]): number {
  if (rows.length === 0) return 0;
  const data = new Float64Array(rows.length * columns.count);
  rows.forEach((r, i) => {
    columns.row(r, data.subarray(i * columns.count, (i + 1) * columns.count));
  });
  return rankReport({ rows: rows.length, cols: columns.count, data }).rank;
}

/**
 * Sets a search up: region, columns, runs that stand, blocks, weights.
 * @throws StudyError when the runs cannot carry the terms, the region is empty, or the question is too large
 */
// What is asked turned into the problem of the search, one input after another.
export function searchQuestion(
  study: Study,
  options: PlanOptions & { criterion?: "D" | "A" | "I" | undefined; keep?: boolean | undefined },
  random: Random,
): SearchQuestion {
  const factors = activeFactors(study);
  const terms = termsAsked(study, options.terms, "main");
  const stray = terms.find((t) => t.some((id) => !factors.some((f) => f.id === id)));
  if (stray) throw new StudyError("covariate-term.plan", { term: termName(alphabetOf(study), stray) }, ["terms"]);
  const snapped = options.snap !== false;
  const flat = terms.flatMap((t) => t.filter((id, i) => t.indexOf(id) !== i));
  for (const id of new Set(flat)) {
    const f = factors.find((x) => x.id === id);
    const need = Math.max(...terms.map((t) => t.filter((q) => q === id).length)) + 1;
    if (f?.kind === "discrete" && f.values.length < need)
      throw new StudyError("too-few-levels", { factor: f.name, values: f.values.length }, ["terms"]);
  }
  const kept = options.keep ? study.trials.filter(isUsable) : [];
  const waves = [...new Set(kept.map((t) => t.wave))];
  const blocks = options.blocks ?? 1;
  const columns = compileColumns(factors, terms, waves.length + blocks);
  const p = columns.count;
  if (p > MOST_COLUMNS) throw new StudyError("too-many-terms.plan", { columns: p, most: MOST_COLUMNS }, ["terms"]);
  const space = searchSpace(study, factors, snapped, random);
  const centre = centreSettingsOf(study, options.centre ?? 0, blocks, snapped);
  const fixed = [
    ...kept.map((t) => rowOf(space, t.settings, waves.indexOf(t.wave))),
    ...centre.map((s, i) => rowOf(space, s, waves.length + (i % blocks))),
  ];
  const least = p - rankOf(columns, fixed);
  const runs = options.trials;
  if (runs === undefined)
    throw new StudyError("bad-count.say-optimal", { columns: p, least: Math.max(1, least) }, ["trials"]);
  if (runs < least)
    throw new StudyError(
      "too-few-trials",
      { columns: p, carried: fixed.length > 0 ? p - least : null, trials: runs, least },
      ["trials"],
    );
  if (runs < blocks) throw new StudyError("bad-blocks.too-few", { trials: runs, blocks }, ["blocks"]);
  if (runs * factors.length * p * p > MOST_WORK)
    throw new StudyError("too-large.search", { trials: runs, factors: factors.length, columns: p }, ["trials"]);
  const criterion = options.criterion ?? "D";
  let weight: Float64Array | undefined;
  if (criterion === "A") {
    weight = new Float64Array(p * p);
    for (let a = 0; a < columns.modelCount; a++) weight[a * p + a] = 1;
  }
  if (criterion === "I") {
    if (space.box)
      weight = columns.boxMoments(
        factors.map((f) => (f.kind === "discrete" ? f.values.map((v) => code(f, v)) : undefined)),
      );
    else {
      // Sampled under limits.
      weight = new Float64Array(p * p);
      const x = new Float64Array(p);
      const count = 2000;
      for (let n = 0; n < count; n++) {
        columns.row(space.draw(random, factors.length + 1), x);
        for (let a = 0; a < columns.modelCount; a++)
          for (let b = 0; b < columns.modelCount; b++) weight[a * p + b] += (x[a] * x[b]) / count;
      }
    }
  }
  const blockOf = Int32Array.from({ length: runs }, (_, i) => waves.length + (i % blocks));
  return {
    terms,
    split: splitOf(study, options, { terms, runs, blockOf, kept, centre, factors }),
    problem: {
      space,
      columns,
      runs,
      blocks: blockOf,
      fixed,
      criterion,
      weight,
      grid: Math.max(5, 2 * Math.max(...columns.degree) + 1),
      refine: true,
    },
    points: (rows) =>
      rows.map((r) => Object.fromEntries(space.factors.map((f, j) => [f.id, isNumeric(f) ? r[j] : f.levels[r[j]]]))),
  };
}

/**
 * Which runs share a set-up, as even as can be within blocks; undefined where every run is set up anew.
 * @throws StudyError `too-few-setups`
 */
function splitOf(
  study: Study,
  options: PlanOptions,
  {
    terms,
    runs,
    blockOf,
    kept,
    centre,
    factors,
  }: {
    terms: readonly Term[];
    runs: number;
    blockOf: Int32Array;
    kept: readonly Trial[];
    centre: readonly Settings[];
    factors: readonly Factor[];
  },
): Split | undefined {
  if (options.setups === undefined || options.setups >= runs) return undefined;
  const blocks = [...new Set(blockOf)];
  const size = options.setupSize ?? Number.POSITIVE_INFINITY;
  const told = kept.length > 0 ? 1 : betweenColumns(study, terms) - (centre.length > 0 ? 1 : 0);
  const least = Math.max(Math.ceil(runs / size), blocks.length, told, 1);
  const count = options.openSetups ? Math.max(options.setups, least) : options.setups;
  if (count < least)
    throw new StudyError(
      "too-few-setups",
      { asked: Math.max(0, count), least, size: Number.isFinite(size) ? size : null },
      ["setups"],
    );
  if (count >= runs) return undefined;
  const members: number[][] = Array.from({ length: count }, () => []);
  const dealt = new Map(blocks.map((b) => [b, 0]));
  blockOf.forEach((b, i) => {
    const own = members.filter((_, s) => s % blocks.length === blocks.indexOf(b));
    const at = dealt.get(b) as number;
    own[at % own.length].push(i);
    dealt.set(b, at + 1);
  });
  const standing = new Map<string, number[]>();
  const stand = (key: string, i: number): void => {
    standing.set(key, [...(standing.get(key) ?? []), i]);
  };
  kept.forEach((t, i) => {
    stand(t.setup === undefined ? `trial ${t.id}` : `${t.wave} ${t.setup}`, i);
  });
  centre.forEach((s, i) => {
    stand(`centre ${i % blocks.length} ${hardKey(study, s)}`, kept.length + i);
  });
  const hard = factors.map(isHard);
  return {
    members,
    fixed: [...standing.values()],
    eta: options.eta ?? ASSUMED_RATIO,
    hard: hard.flatMap((h, j) => (h ? [j] : [])),
    easy: hard.flatMap((h, j) => (h ? [] : [j])),
  };
}

/** Random starts that take about as long as a person waits: fewer for larger questions. */
export function defaultStarts(problem: Problem, split?: Split | undefined): number {
  // In set-ups a pass costs about twice as much, and all runs of a set-up move together besides.
  const times = split ? 2 : 1;
  const unit =
    times *
    problem.runs *
    problem.space.factors.length *
    problem.columns.count ** 2 *
    (problem.weight ? (split ? 4 : 14) : 1);
  return Math.max(8, Math.min(400, Math.round(1e7 / unit)));
}

/** How good rows are by the criterion, as people read it. */
export function measured(problem: Problem, score: number): { measure: string; value: number } {
  const n = problem.runs + problem.fixed.length;
  const p = problem.columns.count;
  if (problem.criterion === "D") return { measure: "D-efficiency", value: (100 * Math.exp(score / p)) / n };
  if (problem.criterion === "A")
    return { measure: "A-efficiency", value: (100 * problem.columns.modelCount) / (n * Math.exp(-score)) };
  return { measure: "mean prediction variance", value: Math.exp(-score) };
}
