import { scrambledHalton } from "../numerics/low-discrepancy";
import { type Random, seededRandom } from "../numerics/random";
import { rangeOf } from "../study/coding";
import type { NumericFactor, Settings } from "../study/schema";
import { desirability } from "./desirability";
import type { SetpointProblem } from "./goals";

/** Draws of all models' coefficients. */
const DRAWS = 300;
/** Ends of ranges that are tried together, and places between them. */
const MOST_ENDS = 512;
const BETWEEN = 200;
/** Overall desirability that may be missed. */
export const WITHIN = 0.05;

/** How sure it is that some settings are about the best there are. */
export interface Sureness {
  /** Overall desirability that they may miss of the best. */
  within: number;
  /** Share of draws of what is not known of the models in which they do not miss more. */
  share: number;
}

/** Ends of all ranges together (a sample of them where they are many) and places between. */
export function placesOver(numeric: readonly NumericFactor[], listed: readonly Settings[], random: Random): Settings[] {
  const k = numeric.length;
  const ends = 2 ** Math.min(k, 30) * listed.length;
  const at = (share: (f: number) => number, among: Settings): Settings => ({
    ...among,
    ...Object.fromEntries(
      numeric.map((f, i) => {
        const [low, high] = rangeOf(f);
        return [f.id, low + share(i) * (high - low)];
      }),
    ),
  });
  const corners =
    ends <= MOST_ENDS
      ? listed.flatMap((among) => Array.from({ length: 2 ** k }, (_, n) => at((i) => (n >> i) & 1, among)))
      : Array.from({ length: MOST_ENDS }, () => at(() => random.below(2), listed[random.below(listed.length)]));
  const between = k === 0 ? [] : scrambledHalton(BETWEEN, k, random);
  return [...corners, ...between.map((u) => at((i) => u[i], listed[random.below(listed.length)]))];
}

/**
 * How sure it is, by what the trials tell of the models' coefficients, that settings lie within 0.05 of the best
 * overall desirability: draws of all coefficients, each response by itself, and in each the best of many places beside
 * the settings. It knows nothing of terms that stand in no model.
 *
 * @param rivals other settings that a search found good
 * @returns null where nothing is known of the error of a model
 */
export function surenessOf(
  problem: Pick<SetpointProblem, "responses" | "predictors" | "region">,
  chosen: Settings,
  {
    numeric,
    listed,
    fixed,
    rivals,
  }: {
    numeric: readonly NumericFactor[];
    listed: readonly Settings[];
    fixed: Settings;
    rivals: readonly Settings[];
  },
  seed: number,
): Sureness | null {
  const random = seededRandom(seed);
  const reads = problem.responses.map((r) => problem.predictors.get(r.id));
  const models = reads.flatMap((p) => (p ? [{ link: p.link, members: p.members }] : []));
  if (models.length < problem.responses.length) return null;
  const places = [
    chosen,
    ...rivals,
    ...placesOver(numeric, listed, random)
      .map((s) => ({ ...s, ...fixed }))
      .filter((s) => problem.region.allowed(s)),
  ];
  const draws = models.map(({ members }) => members.map((m) => m.drawing(places)));
  if (draws.some((d) => d.some((draw) => draw === undefined))) return null;
  const weights = problem.responses.reduce((t, r) => t + r.importance, 0);
  /** Desirabilities of all places by a response as drawn, added to what stands. */
  const add = (i: number, logs: Float64Array): void => {
    const { goal, importance } = problem.responses[i];
    const { members, link } = models[i];
    const u = random.uniform();
    let pick = 0;
    for (let sum = members[0].weight; sum <= u && pick < members.length - 1; sum += members[pick].weight) pick++;
    const values = draws[i][pick]?.(random);
    if (!values) return;
    for (let n = 0; n < values.length; n++)
      logs[n] += importance * Math.log(desirability(goal, link.identity ? values[n] : link.back(values[n])) ?? 1);
  };
  let near = 0;
  for (let draw = 0; draw < DRAWS; draw++) {
    const logs = new Float64Array(places.length);
    for (let i = 0; i < models.length; i++) add(i, logs);
    const best = Math.exp(logs.reduce((m, v) => Math.max(m, v), Number.NEGATIVE_INFINITY) / weights);
    if (Math.exp(logs[0] / weights) >= best - WITHIN) near++;
  }
  return { within: WITHIN, share: near / DRAWS };
}
