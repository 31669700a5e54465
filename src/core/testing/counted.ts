import type { CountedResult } from "../kinds/result";
import type { Random } from "../numerics/random";
import { seededRandom } from "../numerics/random";
import type { Settings, Study, StudyInput } from "../study/schema";
import { parseStudy } from "../study/validate";
import { plainStudy } from "./studies";

// Counted results drawn for tests, piece by piece: no arithmetic of the laws of the core.

type CountedResponse = Partial<NonNullable<StudyInput["responses"]>[number]>;

/** Events among n pieces; shares vary from trial to trial by a beta distribution of intraclass correlation ρ. */
export function drawShare(random: Random, n: number, share: number, rho: number): CountedResult {
  let own = share;
  if (rho > 0) {
    const a = random.chiSquared((2 * share * (1 - rho)) / rho);
    const b = random.chiSquared((2 * (1 - share) * (1 - rho)) / rho);
    own = a / (a + b);
  }
  let events = 0;
  for (let i = 0; i < n; i++) if (random.uniform() < own) events++;
  return { events, of: n };
}

/** Events over an exposure, one waiting time after another; rates vary by a gamma law of relative variance κ. */
export function drawCount(random: Random, exposure: number, rate: number, kappa: number): CountedResult {
  const own = kappa > 0 ? rate * ((random.chiSquared(2 / kappa) * kappa) / 2) : rate;
  let events = -1;
  for (let left = exposure * own; left > 0; events++) left += Math.log(1 - random.uniform());
  return { events: Math.max(0, events), of: exposure };
}

/** How counted results are made: on the link, by settings. */
export interface Process {
  kind: "share" | "count";
  /** Pieces or exposure of each trial, in turn. */
  of: readonly number[];
  constant: number;
  effects: Readonly<Record<string, number>>;
  /** ρ or κ. */
  extra: number;
}

/** What one trial of a process gives. */
export function drawTrial(
  random: Random,
  { kind, constant, effects, extra }: Process,
  s: Settings,
  of: number,
): CountedResult {
  const eta = Object.entries(effects).reduce((t, [id, b]) => t + b * (s[id] as number), constant);
  return kind === "share"
    ? drawShare(random, of, 1 / (1 + Math.exp(-eta)), extra)
    : drawCount(random, of, Math.exp(eta), extra);
}

/** A study of one counted response y whose trials are drawn from a process; further seeds draw it anew. */
export function countedStudies(
  factors: number,
  settings: readonly Settings[],
  process: Process,
  response: CountedResponse = {},
): (seed: number) => Study {
  const { kind, of } = process;
  const made = parseStudy({
    ...plainStudy(factors),
    responses: [{ id: "y", measured: kind, of: of[0], ...response }],
    waves: [{ id: "w1" }],
    trials: settings.map((s, i) => ({
      id: `t${i + 1}`,
      wave: "w1",
      settings: s,
      state: "done",
      results: { y: { events: 1, of: of[i % of.length] } },
    })),
  });
  return (seed) => {
    const random = seededRandom(seed);
    return {
      ...made,
      trials: made.trials.map((t, i) => ({
        ...t,
        results: { y: drawTrial(random, process, t.settings, of[i % of.length]) },
      })),
    };
  };
}
