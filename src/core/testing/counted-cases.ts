import { pointModel, pointsOf } from "../appraisal/terms-info";
import type { CountedPlan } from "../kinds/planning";
import { planningOf } from "../kinds/plannings";
import { fitModel } from "../model/fit";
import { countedPower } from "../planning/counted-power";
import type { Term } from "../study/schema";
import { countedStudies, type Process } from "./counted";
import { corners } from "./studies";

// What is claimed of counts and held against simulation: a thousand draws in the tests, ten thousand in the bench.

/** A plan for a share or a count, and the change that is looked for. */
export interface Case {
  kind: "share" | "count";
  of: number;
  base: number;
  excess: number;
  factors: number;
  copies: number;
  change: number;
  counting?: boolean;
}

/** Ten of them. */
export const POWER_CASES: Case[] = [
  { kind: "share", of: 200, base: 0.1, excess: 1, factors: 3, copies: 2, change: 0.04 },
  { kind: "share", of: 200, base: 0.1, excess: 1, factors: 3, copies: 2, change: 0.03, counting: true },
  { kind: "share", of: 200, base: 0.1, excess: 2, factors: 3, copies: 2, change: 0.05 },
  { kind: "share", of: 50, base: 0.5, excess: 1, factors: 3, copies: 1, change: 0.2 },
  { kind: "share", of: 150, base: 0.05, excess: 1, factors: 4, copies: 1, change: 0.028 },
  { kind: "share", of: 100, base: 0.8, excess: 3, factors: 4, copies: 2, change: 0.08 },
  { kind: "count", of: 5, base: 4, excess: 1, factors: 3, copies: 2, change: 1.3 },
  { kind: "count", of: 4, base: 5, excess: 1, factors: 3, copies: 1, change: 2, counting: true },
  { kind: "count", of: 10, base: 3, excess: 2, factors: 3, copies: 2, change: 1.2 },
  { kind: "count", of: 10, base: 3, excess: 1.5, factors: 4, copies: 1, change: 0.9 },
];
const planOf = ({ kind, of, base, excess, counting = false }: Case): CountedPlan => ({
  kind,
  of,
  base,
  excess,
  counting,
});

/** A study of the case drawn with a change of factor a, and how its power is judged. */
export function powerCase(c: Case) {
  const settings = Array.from({ length: c.copies }, () => corners(c.factors)).flat();
  const plan = planOf(c);
  const half = planningOf(plan).halfChange(plan.base, c.change);
  const share = c.kind === "share";
  const draw = countedStudies(
    c.factors,
    settings,
    {
      kind: c.kind,
      of: [c.of],
      constant: share ? Math.log(c.base / (1 - c.base)) : Math.log(c.base),
      effects: { a: half },
      extra: share ? (c.excess - 1) / (c.of - 1) : (c.excess - 1) / (c.of * c.base),
    },
    { base: c.base, ...(c.counting ? { scatter: "counting" as const } : { excess: c.excess }) },
  );
  const study = draw(1);
  const terms: Term[] = study.factors.map((f) => [f.id]);
  const points = pointsOf(study);
  return {
    draw,
    study,
    terms,
    points,
    plan,
    judged: countedPower(study, pointModel(study, points, terms), terms, plan, points.settings.length),
  };
}

/** How often p of factor a is below 0.05 in so many drawn studies of a case. */
export function foundIn(c: Case, runs: number): number {
  const { draw, terms } = powerCase(c);
  let found = 0;
  for (let i = 0; i < runs; i++) {
    const { anova } = fitModel(draw(100 + i), "y", { terms });
    if ((anova.find((r) => r.source === "term" && r.term?.[0] === "a")?.p ?? 1) < 0.05) found++;
  }
  return found / runs;
}

/** Sixteen trials at three factors of which c does nothing. */
interface CoverageCase {
  name: string;
  process: Process;
  scatter?: "counting";
  /** Some level has fewer than ten expected events: what is discrete may cover more. */
  few?: boolean;
}

const twice = [...corners(3), ...corners(3)];
const share: Process = { kind: "share", of: [120], constant: -1.2, effects: { a: 0.6, b: -0.4 }, extra: 0 };
const count: Process = { kind: "count", of: [10], constant: 1.2, effects: { a: 0.2, b: -0.1 }, extra: 0 };

export const COVERAGE_CASES: CoverageCase[] = [
  { name: "shares, φ 1, free", process: share },
  { name: "shares, φ 2, free", process: { ...share, extra: 1 / 119 } },
  { name: "shares, φ 3, free", process: { ...share, extra: 2 / 119 } },
  { name: "shares, pieces independent", process: share, scatter: "counting" },
  { name: "shares of different numbers", process: { ...share, of: [60, 100, 160], extra: 0.01 } },
  { name: "counts, φ 1, free", process: count },
  { name: "counts, φ 2, free", process: { ...count, extra: 1 / 33 } },
  { name: "counts, φ 3, free", process: { ...count, extra: 2 / 33 } },
  { name: "counts, events independent", process: count, scatter: "counting" },
  { name: "few events, penalised, free", process: { ...share, of: [25], constant: -3.3 }, few: true },
  {
    name: "few events, penalised, independent",
    process: { ...share, of: [25], constant: -3.3 },
    scatter: "counting",
    few: true,
  },
];

/** How often 95 % intervals of three effects hold what they should, how often a null effect is rejected at 5 %. */
export function coverageOf({ process, scatter }: CoverageCase, runs: number): { covers: number; rejects: number } {
  const draw = countedStudies(3, twice, process, scatter ? { scatter } : {});
  const terms: Term[] = [["a"], ["b"], ["c"]];
  const truth = [process.effects.a ?? 0, process.effects.b ?? 0, 0];
  let covered = 0;
  let rejected = 0;
  for (let i = 0; i < runs; i++) {
    const { parameters } = fitModel(draw(2000 + i), "y", { terms });
    truth.forEach((b, j) => {
      const ends = parameters[j + 1].interval;
      if (ends && ends[0] <= b && b <= ends[1]) covered++;
    });
    if ((parameters[3].p ?? 1) < 0.05) rejected++;
  }
  return { covers: covered / (3 * runs), rejects: rejected / runs };
}
