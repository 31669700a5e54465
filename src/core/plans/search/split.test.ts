import { describe, expect, it } from "vitest";
import { seededRandom } from "../../numerics/random";
import type { Settings, Study } from "../../study/schema";
import { determinant, solve } from "../../testing/elimination";
import { informationUnder, quadratic, rowsOf, splitStudy, termsOf } from "../../testing/setups";
import { cat, cont, studyOf } from "../../testing/studies";
import { makePlan } from "../make-plan";
import { searchQuestion } from "./question";
import { searchSplitPlan } from "./split";

/** A search run to its end: rows in natural settings, the set-up of each, and the score it says it has. */
function searched(study: Study, options: Parameters<typeof searchQuestion>[1], starts: number) {
  const question = searchQuestion(study, options, seededRandom(1));
  const split = question.split;
  if (!split) throw new Error("no set-ups");
  const steps = searchSplitPlan(question.problem, split, starts, 1);
  let step = steps.next();
  while (!step.done) step = steps.next();
  const rows = step.value?.rows ?? [];
  const of = new Array<number>(rows.length).fill(0);
  split.members.forEach((m, s) => {
    for (const i of m) of[i] = s;
  });
  return {
    score: step.value?.score ?? Number.NaN,
    settings: question.points(rows),
    of,
    weight: question.problem.weight,
  };
}

/** Exchange of coordinates over three levels, every plan judged by |X′V⁻¹X| written out. */
function plain(
  ids: string,
  hard: number,
  sizes: readonly number[],
  terms: readonly string[],
  eta: number,
  starts: number,
) {
  const random = seededRandom(99);
  const of = sizes.flatMap((m, s) => new Array<number>(m).fill(s));
  const all = [...ids];
  let best = Number.NEGATIVE_INFINITY;
  const worth = (rows: Settings[]): number => {
    const d = determinant(informationUnder(rowsOf(rows, terms), of, eta));
    return d > 0 ? Math.log(d) : Number.NEGATIVE_INFINITY;
  };
  for (let s = 0; s < starts; s++) {
    const level = (): number => random.below(3) - 1;
    const heads = sizes.map(() => all.slice(0, hard).map(level));
    const rows: Settings[] = of.map((g) =>
      Object.fromEntries(all.map((id, j) => [id, j < hard ? heads[g][j] : level()])),
    );
    let now = worth(rows);
    for (let moved = true; moved; ) {
      moved = false;
      for (const [j, id] of all.entries())
        for (const place of j < hard ? sizes.keys() : rows.keys()) {
          const own = j < hard ? rows.filter((_, i) => of[i] === place) : [rows[place]];
          const before = own[0][id];
          let stands = before;
          for (const v of [-1, 0, 1]) {
            for (const r of own) r[id] = v;
            const value = worth(rows);
            if (value > now + 1e-9) {
              now = value;
              stands = v;
              moved = true;
            }
          }
          for (const r of own) r[id] = stands;
        }
    }
    best = Math.max(best, now);
  }
  return best;
}

describe("plans built under V = I + ηZZ′", () => {
  it.each([
    [1, 2, 12, 4, ["a", "p", "q", "ap", "aq", "pq"], 1, 12],
    [2, 1, 12, 6, ["a", "b", "p", "ab", "ap", "bp"], 4, 12],
    [1, 1, 9, 4, ["a", "p", "ap", "aa", "pp"], 1, 16],
    [1, 1, 10, 5, ["a", "p", "ap", "aa", "pp"], 0.25, 16],
  ])(
    "%i hard, %i easy, %i runs in %i set-ups: as good as plain exchange, and as good as it says",
    (hard, easy, trials, setups, terms, eta, starts) => {
      const study = splitStudy(hard, easy);
      const own = searched(study, { family: "optimal", trials, setups, eta, terms: termsOf(terms) }, 40);
      const x = rowsOf(own.settings, terms);
      const d = Math.log(determinant(informationUnder(x, own.of, eta)));
      expect(own.score).toBeCloseTo(d, 8);
      const sizes = Array.from({ length: setups }, (_, s) => own.of.filter((v) => v === s).length);
      expect(Math.max(...sizes) - Math.min(...sizes)).toBeLessThanOrEqual(1);
      // D-efficiency, a column: within two thousandths of the best plain exchange found.
      const ids = study.factors.map((f) => f.id).join("");
      const other = plain(ids, hard, sizes, terms, eta, starts);
      expect(Math.exp((d - other) / x[0].length)).toBeGreaterThan(0.998);
    },
  );
  it("by I the mean variance of predictions over the region, as it says, and less than by D", () => {
    const study = splitStudy(1, 2);
    const terms = quadratic("apq");
    const options = { family: "optimal", trials: 18, setups: 6, terms: termsOf(terms) };
    const meanVariance = (settings: Settings[], of: number[]): number => {
      const m = informationUnder(rowsOf(settings, terms), of, 1);
      // Gauss–Legendre with three nodes a side is exact for moments of fourth order.
      const nodes = [-Math.sqrt(0.6), 0, Math.sqrt(0.6)];
      const weight = [5 / 18, 8 / 18, 5 / 18];
      let total = 0;
      nodes.forEach((a, i) => {
        nodes.forEach((p, j) => {
          nodes.forEach((q, k) => {
            const [x] = rowsOf([{ a, p, q }], terms);
            const v = solve(m, x).reduce((t, b, c) => t + b * x[c], 0);
            total += weight[i] * weight[j] * weight[k] * v;
          });
        });
      });
      return total;
    };
    const byI = searched(study, { ...options, criterion: "I" }, 12);
    expect(Math.exp(-byI.score)).toBeCloseTo(meanVariance(byI.settings, byI.of), 8);
    const byD = searched(study, { ...options, criterion: "D" }, 12);
    expect(meanVariance(byI.settings, byI.of)).toBeLessThan(meanVariance(byD.settings, byD.of));
  });
  it("more set-ups never tell less, and where set-ups vary nothing the plan is the plain one's match", () => {
    const study = splitStudy(1, 2);
    const terms = termsOf(["a", "p", "q", "ap", "aq"]);
    const d = (setups: number): number => searched(study, { family: "optimal", trials: 12, setups, terms }, 20).score;
    expect(d(6)).toBeGreaterThan(d(4) - 1e-9);
    const none = searched(study, { family: "optimal", trials: 16, setups: 8, eta: 0, terms }, 20);
    // Orthogonal: every column has length √16.
    expect(none.score).toBeCloseTo(6 * Math.log(16), 8);
  });
  it("categories may be hard, limits hold over all trials of a set-up, steps are kept, the runs made are counted in", () => {
    const study = studyOf(
      [
        { ...cat("oven", "old", "new", "tall"), change: "hard" },
        cont("p"),
        { id: "q", kind: "continuous" as const, low: 10, high: 30, step: 5 },
      ],
      { region: { limits: [{ terms: { p: 1 }, at: "most", bound: 0.5 }], forbidden: [] } },
    );
    const plan = makePlan(study, { family: "optimal", trials: 12, setups: 5, terms: "main+2fi", starts: 6, seed: 2 });
    expect(plan.excluded).toBe(0);
    for (const t of plan.trials) {
      expect(t.settings.p as number).toBeLessThanOrEqual(0.5 + 1e-9);
      expect((t.settings.q as number) % 5).toBe(0);
    }
    const ovens = new Map<number, Set<unknown>>();
    for (const t of plan.trials)
      ovens.set(t.setup as number, (ovens.get(t.setup as number) ?? new Set()).add(t.settings.oven));
    expect([...ovens.values()].every((s) => s.size === 1)).toBe(true);
    const sloping = splitStudy(1, 2, {
      region: { limits: [{ terms: { a: 1, p: 1 }, at: "most", bound: 0.8 }], forbidden: [] },
    });
    const within = makePlan(sloping, { family: "optimal", trials: 14, setups: 5, terms: "quadratic", starts: 6 });
    expect(within.excluded).toBe(0);
    for (const t of within.trials) expect((t.settings.a as number) + (t.settings.p as number)).toBeLessThan(0.8 + 1e-9);
  });
  it("begins nothing more once it is stopped, and ends with the best it has", () => {
    const study = splitStudy(2, 3);
    const question = searchQuestion(
      study,
      { family: "optimal", trials: 30, setups: 10, terms: "quadratic" },
      seededRandom(1),
    );
    const steps = searchSplitPlan(question.problem, question.split as NonNullable<typeof question.split>, 1000, 1);
    let step = steps.next();
    while (!step.done && step.value.tries < 1) step = steps.next();
    const begun = step.done ? 0 : step.value.tries;
    step = steps.next(true);
    while (!step.done) {
      expect(step.value.tries).toBe(begun);
      step = steps.next(true);
    }
    expect(step.value?.rows).toHaveLength(30);
    expect(step.value?.stopped).toBe(true);
  });
});
