import { describe, expect, it } from "vitest";
import { type PointModel, pointModel, pointsOf } from "../appraisal/terms-info";
import type { CountedPlan } from "../kinds/planning";
import { fitModel } from "../model/fit";
import { noncentralTCdf, tQuantile } from "../numerics/distributions";
import { seededRandom } from "../numerics/random";
import type { Settings, Study, Term } from "../study/schema";
import { drawTrial } from "../testing/counted";
import { splitStudy } from "../testing/setups";
import { countedPower } from "./counted-power";

/** Eight set-ups of a, four at either end, each a full factorial of p and q. */
const SETUPS = 8;
const EASY: Settings[] = [-1, 1].flatMap((p) => [-1, 1].map((q) => ({ p, q })));
const ROWS = Array.from({ length: SETUPS }, (_, s) =>
  EASY.map((e) => ({ setup: s + 1, settings: { a: s % 2 ? 1 : -1, ...e } })),
).flat();
const TERMS: Term[] = [["a"], ["p"], ["q"]];

interface Case extends CountedPlan {
  kind: "share" | "count";
  eta: number;
  change: number;
}
const share = { kind: "share" as const, of: 200, base: 0.2, excess: 1, counting: false };
const count = { kind: "count" as const, of: 12, base: 4, excess: 1, counting: false };
const CASES: (Case & { term: string })[] = [
  { ...share, eta: 1, change: 0.1, term: "a" },
  { ...share, eta: 1, change: 0.03, term: "p" },
  { ...share, of: 400, base: 0.1, excess: 2, eta: 3, change: 0.08, term: "a" },
  { ...count, eta: 2, change: 1.4, term: "a" },
  { ...count, excess: 2, eta: 1, change: 0.9, term: "q" },
];

function studyOf(c: Case): Study {
  const { kind, of, base, eta } = c;
  return splitStudy(1, 2, {
    responses: [{ id: "y", measured: kind, of, base }],
    waves: [{ id: "w1", plan: { family: "own", eta } }],
    trials: ROWS.map(({ setup, settings }, i) => ({
      id: `t${i + 1}`,
      wave: "w1",
      setup,
      settings,
      state: "done",
      results: { y: { events: 1, of } },
    })),
  });
}
const modelOf = (study: Study, eta: number): PointModel => pointModel(study, pointsOf(study, eta), TERMS);
const judgedOn = (c: Case, term: string) => {
  const study = studyOf(c);
  return countedPower(study, modelOf(study, c.eta), [[term]], c, ROWS.length);
};
const once = (of: number) => ({ replicates: 1, of });

/** Half the change on the logit, by bisection of the shares at both ends; of a rate in closed form. */
function halfOf({ kind, base }: CountedPlan, change: number): number {
  if (kind === "count") return Math.asinh(change / (2 * base));
  const logit = Math.log(base / (1 - base));
  const at = (u: number): number => 1 / (1 + Math.exp(-(logit + u)));
  let [low, high] = [0, 10];
  for (let i = 0; i < 80; i++) {
    const u = (low + high) / 2;
    if (at(u) - at(-u) < change) low = u;
    else high = u;
  }
  return low;
}

/** Variance of one trial within its set-up at a share or rate, by first differences of its logit or logarithm. */
function varianceOf({ kind, of, base, excess }: CountedPlan, value: number): number {
  if (kind === "share") return excess / (of * value * (1 - value));
  return 1 / (of * value) + (excess - 1) / (of * base);
}

/** What is said of main effects in balanced set-ups: the noncentral t of contrasts of their means, and of trials. */
function byHand(c: Case, term: string): number {
  const half = halfOf(c, c.change);
  const ends = [-half, half].map((u) =>
    c.kind === "share" ? 1 / (1 + Math.exp(-(Math.log(c.base / (1 - c.base)) + u))) : c.base * Math.exp(u),
  );
  const within = (varianceOf(c, ends[0]) + varianceOf(c, ends[1])) / 2;
  const hard = term === "a";
  // Between set-ups 8 − 2 degrees of freedom, within them 32 − 8 − 2.
  const variance = hard ? (4 * (c.eta * within + within / 4)) / SETUPS : (4 * within) / ROWS.length;
  const df = hard ? SETUPS - 2 : ROWS.length - SETUPS - 2;
  const delta = (2 * half) / Math.sqrt(variance);
  const critical = tQuantile(0.975, df);
  return 1 - noncentralTCdf(critical, df, delta) + noncentralTCdf(-critical, df, delta);
}

describe("power of a share or a count where factors are hard to change", () => {
  it.each(CASES)("$kind, $term, η $eta, excess $excess: that of contrasts of set-ups or of trials", (c) => {
    expect(judgedOn(c, c.term).powerAt(c.change, 0.05, once(c.of))).toBeCloseTo(byHand(c, c.term), 6);
  });
  it.each(CASES)("$kind, $term, η $eta, excess $excess: that of simulated studies", (c) => {
    const said = judgedOn(c, c.term).powerAt(c.change, 0.05, once(c.of)) ?? 0;
    const study = studyOf(c);
    const random = seededRandom(17);
    const constant = c.kind === "share" ? Math.log(c.base / (1 - c.base)) : Math.log(c.base);
    const extra = c.kind === "share" ? (c.excess - 1) / (c.of - 1) : (c.excess - 1) / (c.of * c.base);
    const effects = { [c.term]: halfOf(c, c.change) };
    const sigma = Math.sqrt(c.eta * varianceOf(c, c.base));
    const RUNS = 800;
    let found = 0;
    for (let run = 0; run < RUNS; run++) {
      const charges = Array.from({ length: SETUPS }, () => sigma * random.normal());
      const trials = study.trials.map((t, i) => ({
        ...t,
        results: {
          y: drawTrial(
            random,
            { kind: c.kind, of: [c.of], constant: constant + charges[ROWS[i].setup - 1], effects, extra },
            t.settings,
            c.of,
          ),
        },
      }));
      const { parameters } = fitModel({ ...study, trials }, "y", { terms: TERMS });
      if ((parameters[1 + "apq".indexOf(c.term)].p ?? 1) < 0.05) found++;
    }
    // 0.02, and what this many draws may be off by.
    expect(Math.abs(said - found / RUNS)).toBeLessThan(0.02 + 2.6 * Math.sqrt((said * (1 - said)) / RUNS));
    expect(said).toBeGreaterThan(0.2);
    expect(said).toBeLessThan(0.97);
  });
  it("more pieces do not make set-ups vary less: a hard factor gains by set-ups, an easy one by either", () => {
    const c: Case = { ...share, eta: 1, change: 0.1 };
    // Four times the pieces: a quarter of the variance within, the same between, so four times the ratio.
    for (const term of ["a", "p"])
      expect(judgedOn(c, term).powerAt(0.06, 0.05, once(800))).toBeCloseTo(
        byHand({ ...c, of: 800, eta: 4, change: 0.06 }, term),
        6,
      );
    const sees = (term: string, replicates: number, of: number): number =>
      judgedOn(c, term).detectable(0.8, 0.05, { replicates, of }) ?? 0;
    expect(sees("a", 2, 200)).toBeLessThan(0.9 * sees("a", 1, 400));
    expect(sees("p", 2, 200) / sees("p", 1, 400)).toBeCloseTo(1, 1);
    // The power never falls as a change grows, up to all pieces against none.
    const rising = [0.05, 0.1, 0.2, 0.4, 0.6, 0.8, 0.95, 0.999].map(
      (change) => judgedOn(c, "a").powerAt(change, 0.05, once(200)) ?? 0,
    );
    expect(rising).toEqual([...rising].sort((x, y) => x - y));
    expect(rising[rising.length - 1]).toBeGreaterThan(0.99);
    expect(judgedOn(c, "a").powerAt(sees("a", 1, 200), 0.05, once(200))).toBeCloseTo(0.8, 4);
  });
  it("of a square is told at every change, where a share can be so far neither above its base nor below it", () => {
    const c: Case = { ...share, base: 0.5, eta: 1, change: 0.6 };
    const study = studyOf(c);
    const middles = EASY.map((_, i) => ({ setup: 9, settings: { a: 0, p: 0, q: 0 }, id: i }));
    const points = {
      settings: [...ROWS, ...middles].map((r) => r.settings),
      waves: [...ROWS, ...middles].map(() => "w1"),
      setups: [...ROWS, ...middles].map((r) => String(r.setup)),
      eta: 1,
    };
    for (const setups of [true, false]) {
      const { setups: _, ...loose } = points;
      const model = pointModel(study, setups ? points : loose, [...TERMS, ["p", "p"]]);
      const judged = countedPower(study, model, [["p", "p"]], c, points.settings.length);
      const powers = [0.1, 0.3, 0.49, 0.6, 0.99].map((change) => judged.powerAt(change, 0.05, once(200)) ?? -1);
      expect(powers.every((v) => v >= 0.05 && v <= 1)).toBe(true);
      expect(powers).toEqual([...powers].sort((x, y) => x - y));
    }
  });
  it("is less than that of trials in any order, and none where two set-ups leave nothing to judge by", () => {
    const c: Case = { ...share, eta: 1, change: 0.1 };
    const study = studyOf(c);
    const loose = countedPower(
      study,
      pointModel(study, { settings: ROWS.map((r) => r.settings), waves: ROWS.map(() => "w1") }, TERMS),
      [["a"]],
      c,
      ROWS.length,
    );
    // Of set-ups 8 bear on a, with six degrees of freedom; of trials 32, as if each had been set anew.
    expect(judgedOn(c, "a").powerAt(0.06, 0.05, once(200))).toBeLessThan(0.7);
    expect(loose.powerAt(0.06, 0.05, once(200))).toBeGreaterThan(0.99);
    const two = { ...study, trials: study.trials.slice(0, 8) };
    const few = countedPower(two, modelOf(two, 1), [["a"]], c, 8);
    expect([few.powerAt(0.1, 0.05, once(200)), few.detectable(0.8, 0.05, once(200))]).toEqual([null, null]);
  });
});
