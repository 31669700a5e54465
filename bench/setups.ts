/**
 * Set-ups of hard factors. Coverage of 95 % intervals of main effects in either stratum, and rejection of a null hard
 * factor at 5 %, for how set-ups vary: balanced plans of 4 to 10 set-ups and unbalanced ones with 3 degrees of freedom
 * between them or fewer. Then plans built under V against the best of many starts of a plain exchange that works every
 * determinant out anew. Run: npx tsx bench/setups.ts [data sets] [starts]
 */
import { fitModel } from "../src/core/model/fit";
import { logDeterminant } from "../src/core/numerics/matrices";
import { seededRandom } from "../src/core/numerics/random";
import { defaultStarts, searchQuestion } from "../src/core/plans/search/question";
import { searchSplitPlan } from "../src/core/plans/search/split";
import type { Study } from "../src/core/study/schema";
import { parseStudy } from "../src/core/study/validate";
import { quadratic, rowsOf, splitStudy, termsOf } from "../src/core/testing/setups";

const COUNT = Number(process.argv[2] ?? 4000);
const STARTS = Number(process.argv[3] ?? 2000);
const random = seededRandom(11);

/** Set-ups of these sizes, a hard factor a and a null one b, p and q easy; effects 0.5 of a and p. */
function drawn(sizes: readonly number[], eta: number): Study {
  const trials = sizes.flatMap((size, g) => {
    const [a, b] = [g % 2 === 0 ? -1 : 1, Math.floor(g / 2) % 2 === 0 ? -1 : 1];
    const u = Math.sqrt(eta) * random.normal();
    return Array.from({ length: size }, (_, i) => {
      const [p, q] = [i % 2 === 0 ? -1 : 1, Math.floor(i / 2) % 2 === 0 ? -1 : 1];
      const y = 10 + 0.5 * a + 0.5 * p + u + random.normal();
      return {
        id: `t${g}-${i}`,
        wave: "w",
        setup: g + 1,
        state: "done" as const,
        settings: { a, b, p, q },
        results: { y },
      };
    });
  });
  return parseStudy({ ...splitStudy(2, 2), waves: [{ id: "w" }], trials });
}

const PLANS: [string, number[]][] = [
  ["balanced, 4 × 4, without b", new Array(4).fill(4)],
  ["balanced, 6 × 4", new Array(6).fill(4)],
  ["balanced, 8 × 4", new Array(8).fill(4)],
  ["balanced, 10 × 4", new Array(10).fill(4)],
  ["unbalanced, 5, 3, 4, 4, 2, 4", [5, 3, 4, 4, 2, 4]],
  ["unbalanced, 2, 4, 5, 3, 4", [2, 4, 5, 3, 4]],
  ["all but balanced, 4, 4, 4, 4, 3", [4, 4, 4, 4, 3]],
  ["unbalanced, 3, 3, 2, 2, without b", [3, 3, 2, 2]],
];

console.log(`${COUNT} data sets each: intervals of a (hard), of p (easy) hold; b (hard, null) rejected`);
for (const [name, sizes] of PLANS)
  for (const eta of [0, 0.25, 1, 4]) {
    const hit = { a: 0, p: 0, b: 0 };
    for (let n = 0; n < COUNT; n++) {
      // Four set-ups leave two degrees of freedom for one hard factor, and too few for two.
      const terms = sizes.length > 4 ? ["a", "b", "p", "q"] : ["a", "p", "q"];
      const fit = fitModel(drawn(sizes, eta), "y", { terms: termsOf(terms) });
      const at = (id: string) => fit.parameters.find((x) => x.term[0] === id);
      for (const id of ["a", "p"] as const) {
        const interval = at(id)?.interval;
        if (interval && interval[0] <= 0.5 && interval[1] >= 0.5) hit[id]++;
      }
      if ((at("b")?.p ?? 1) < 0.05) hit.b++;
    }
    const share = (n: number): string => `${((100 * n) / COUNT).toFixed(1)} %`;
    console.log(`${name}, η ${eta}: a ${share(hit.a)}, p ${share(hit.p)}, b rejected ${share(hit.b)}`);
  }

/** Best log |X′V⁻¹X| of many random starts, every coordinate tried at −1, 0 and 1 until nothing gains. */
function plainExchange(
  ids: string,
  hard: number,
  members: readonly (readonly number[])[],
  terms: readonly string[],
): number {
  const all = [...ids];
  const p = terms.length + 1;
  const m = new Float64Array(p * p);
  const source = seededRandom(5);
  const runs = members.flat().length;
  let best = Number.NEGATIVE_INFINITY;
  for (let s = 0; s < STARTS; s++) {
    const level = (): number => source.below(3) - 1;
    const rows = Array.from({ length: runs }, () => Object.fromEntries(all.map((id) => [id, level()])));
    for (const own of members) for (const i of own) for (const id of all.slice(0, hard)) rows[i][id] = rows[own[0]][id];
    const x = rowsOf(rows, terms);
    const worth = (changed: readonly number[]): number => {
      for (const i of changed) x[i] = rowsOf([rows[i]], terms)[0];
      m.fill(0);
      for (const own of members) {
        const c = 1 / (1 + own.length);
        for (let a = 0; a < p; a++)
          for (let b = 0; b <= a; b++) {
            let [t, ta, tb] = [0, 0, 0];
            for (const i of own) {
              t += x[i][a] * x[i][b];
              ta += x[i][a];
              tb += x[i][b];
            }
            m[a * p + b] += t - c * ta * tb;
          }
      }
      return logDeterminant(m, p);
    };
    let now = worth([]);
    for (let moved = true; moved; ) {
      moved = false;
      for (const [j, id] of all.entries())
        for (const own of j < hard ? members : members.flat().map((i) => [i])) {
          const before = rows[own[0]][id];
          let stands = before;
          for (const v of [-1, 0, 1]) {
            for (const i of own) rows[i][id] = v;
            const value = worth(own);
            if (value > now + 1e-9) {
              now = value;
              stands = v;
              moved = true;
            }
          }
          for (const i of own) rows[i][id] = stands;
          for (const i of own) x[i] = rowsOf([rows[i]], terms)[0];
        }
    }
    best = Math.max(best, now);
  }
  return best;
}

const two = (ids: string): string[] => quadratic(ids).filter((t) => t.length === 1 || t[0] !== t[1]);
const CASES: [number, number, number, number, string[]][] = [
  [1, 2, 12, 4, two("apq")],
  [1, 3, 16, 5, two("apqr")],
  [2, 2, 16, 8, two("abpq")],
  [1, 1, 10, 5, quadratic("ap")],
  [1, 2, 15, 5, quadratic("apq")],
  [2, 1, 14, 7, quadratic("abp")],
  [2, 2, 20, 10, quadratic("abpq")],
  [1, 3, 24, 6, quadratic("apqr")],
];
console.log(`plans under V, η 1: D-efficiency over the best of ${STARTS} starts of a plain exchange`);
for (const [hard, easy, trials, setups, terms] of CASES) {
  const study = splitStudy(hard, easy);
  const ids = study.factors.map((f) => f.id).join("");
  const { problem, split } = searchQuestion(
    study,
    { family: "optimal", trials, setups, terms: termsOf(terms) },
    seededRandom(1),
  );
  if (!split) throw new Error("no set-ups");
  const before = performance.now();
  const starts = defaultStarts(problem, split);
  const steps = searchSplitPlan(problem, split, starts, 1);
  let step = steps.next();
  while (!step.done) step = steps.next();
  const took = performance.now() - before;
  const other = plainExchange(ids, hard, split.members, terms);
  const ratio = Math.exp(((step.value?.score ?? Number.NaN) - other) / (terms.length + 1));
  console.log(
    `${hard} hard, ${easy} easy, ${trials} in ${setups}, ${terms.length + 1} columns: ${(100 * ratio).toFixed(3)} %, ${(took / 1000).toFixed(1)} s of ${step.value?.tries} starts`,
  );
}
