import { describe, expect, it } from "vitest";
import { fitModel } from "../model/fit";
import { linearSurface } from "../model/linear-surface";
import { seededRandom } from "../numerics/random";
import type { Settings, Study, Term } from "../study/schema";
import { parseStudy } from "../study/validate";
import { runTrial } from "./rig";
import { smokehouse } from "./smokehouse";
import { woolLine } from "./wool-line";

const KNOBS = woolLine.knobs;
/** The wool line's question with trials at made-up settings, as many as asked for. */
function line(count: number, seed: number, more: object = {}): Study {
  const random = seededRandom(seed);
  return parseStudy({
    format: "trialmoor-study",
    version: 1,
    title: "line",
    factors: KNOBS.map((k) =>
      k.range
        ? { id: k.id, name: k.name, kind: "continuous", low: k.range[0], high: k.range[1] }
        : { id: k.id, name: k.name, kind: "categorical", levels: k.levels },
    ),
    responses: woolLine.gauges.map((g) => ({ id: g.id, name: g.name })),
    waves: [{ id: "w" }],
    trials: Array.from({ length: count }, (_, i) => ({
      id: `t${i}`,
      wave: "w",
      settings: Object.fromEntries(
        KNOBS.map((k): [string, number | string] =>
          k.range
            ? [k.id, k.range[0] + random.uniform() * (k.range[1] - k.range[0])]
            : [k.id, (k.levels ?? [])[random.below(2)]],
        ),
      ),
    })),
    ...more,
  });
}
const ran = (study: Study, seed: number): Study => ({
  ...study,
  trials: study.trials.map((t) => ({
    ...t,
    state: "done",
    results: runTrial(woolLine, study, t, seed) as Record<string, number>,
  })),
});

describe("a virtual process", () => {
  const study = line(12, 5);
  it("gives each trial results of its own, the same at every run and in any order", () => {
    const once = study.trials.map((t) => runTrial(woolLine, study, t, 3));
    const again = [...study.trials].reverse().map((t) => runTrial(woolLine, study, t, 3));
    expect(again.reverse()).toEqual(once);
    expect(runTrial(woolLine, study, study.trials[0], 4)).not.toEqual(once[0]);
    expect(new Set(once.map((r) => r.tangle)).size).toBeGreaterThan(8);
  });
  it("goes by what was really set, and by its own ranges whatever the study calls low and high", () => {
    const [first] = study.trials;
    const moved = parseStudy({
      ...study,
      factors: study.factors.map((f) => (f.id === "temp" && f.kind === "continuous" ? { ...f, low: 40, high: 90 } : f)),
    });
    expect(runTrial(woolLine, moved, moved.trials[0], 3)).toEqual(runTrial(woolLine, study, first, 3));
    const hotter = { ...first, asRun: { temp: (first.settings.temp as number) + 5 } };
    expect(runTrial(woolLine, study, hotter, 3).tangle).not.toEqual(runTrial(woolLine, study, first, 3).tangle);
  });
  it("shows no more than its gauges do", () => {
    for (const t of study.trials)
      for (const g of woolLine.gauges) {
        const v = runTrial(woolLine, study, t, 3)[g.id] as number;
        expect(Number(v.toFixed(g.decimals))).toBe(v);
      }
  });
  it("says what is missing or foreign to it", () => {
    const without = parseStudy({ ...study, factors: study.factors.slice(1), trials: [] });
    expect(() => runTrial(woolLine, without, study.trials[0], 1)).toThrow(
      /also has Bowl temperature to set; add that factor/,
    );
    const extra = parseStudy({
      ...study,
      factors: [...study.factors, { id: "steam", name: "Steam", kind: "continuous", low: 0, high: 1 }],
      trials: [],
    });
    expect(() => runTrial(woolLine, extra, study.trials[0], 1)).toThrow(/no knob called Steam/);
  });
});

describe("the whole way from settings to intervals, against a process whose truth is known", () => {
  // Entanglement as the rig makes it, coded: constant, heat, detergent, soda, feed, lot (hill to lowland), heat
  // squared.
  const truth = [18, 2.7, 0.3, 0.9, -1.1, 0.7, 0.9];
  const sigma = 0.45;
  const terms: Term[] = [["temp"], ["dose"], ["soda"], ["feed"], ["lot"], ["temp", "temp"]];
  const RUNS = 150;
  it(`95 % intervals of coefficients hold the truth in about 95 of 100 studies (${RUNS} studies, 7 coefficients)`, () => {
    let held = 0;
    let s2 = 0;
    for (let seed = 1; seed <= RUNS; seed++) {
      const fit = fitModel(ran(line(24, seed), seed), "tangle", { terms });
      expect(fit.parameters).toHaveLength(truth.length);
      fit.parameters.forEach((p, j) => {
        const [low, high] = p.interval ?? [0, 0];
        if (low <= truth[j] && truth[j] <= high) held++;
      });
      s2 += (fit.summary.s ?? 0) ** 2;
    }
    // Three standard errors of a share of 0.95 in 1,050, doubled since coefficients of one study go together.
    expect(held / (RUNS * truth.length)).toBeGreaterThan(0.91);
    expect(held / (RUNS * truth.length)).toBeLessThan(0.985);
    // The mean of s² is σ² (and the gauge's rounding, 0.1²/12): within four standard errors, σ²√(2/(17·150)).
    expect(Math.abs(s2 / RUNS - sigma ** 2 - 0.01 / 12)).toBeLessThan(4 * sigma ** 2 * Math.sqrt(2 / (17 * RUNS)));
  });
  it("95 % intervals of one more trial hold it in about 95 of 100, those of the mean the true mean", () => {
    let one = 0;
    let mean = 0;
    for (let seed = 1; seed <= RUNS; seed++) {
      const study = line(25, seed + 1000);
      const [next, ...rest] = study.trials;
      const fit = linearSurface(study, fitModel(ran({ ...study, trials: rest }, seed), "tangle", { terms }));
      const said = fit.predict(next.settings);
      const seen = runTrial(woolLine, study, next, seed).tangle as number;
      if (said.trialInterval && said.trialInterval[0] <= seen && seen <= said.trialInterval[1]) one++;
      const code = (id: string): number => {
        const [low, high] = KNOBS.find((k) => k.id === id)?.range ?? [0, 1];
        return (2 * ((next.settings as Settings)[id] as number) - low - high) / (high - low);
      };
      const at = [
        1,
        code("temp"),
        code("dose"),
        code("soda"),
        code("feed"),
        next.settings.lot === "hill" ? -1 : 1,
        code("temp") ** 2,
      ];
      const level = at.reduce((t, x, j) => t + x * truth[j], 0);
      if (said.meanInterval && said.meanInterval[0] <= level && level <= said.meanInterval[1]) mean++;
    }
    // Within four standard errors of 0.95 in 150, √(0.95·0.05/150) = 0.018.
    for (const share of [one / RUNS, mean / RUNS]) {
      expect(share).toBeGreaterThan(0.95 - 4 * 0.018);
      expect(share).toBeLessThanOrEqual(1);
    }
    expect(one + mean).toBeLessThan(2 * RUNS);
  });
});

describe("a rig whose set-ups vary", () => {
  const knobs = smokehouse.knobs.map((k) => ({
    id: k.id,
    kind: "continuous" as const,
    low: k.range?.[0] ?? 0,
    high: k.range?.[1] ?? 1,
    ...(k.id === "smoke" || k.id === "damp" ? { change: "hard" as const } : {}),
  }));
  const middle = Object.fromEntries(knobs.map((k) => [k.id, (k.low + k.high) / 2]));
  const house = (setups: number, trials: number): Study =>
    parseStudy({
      format: "trialmoor-study",
      version: 1,
      title: "house",
      factors: knobs,
      responses: [{ id: "loss", decimals: 6 }],
      waves: [{ id: "w" }],
      trials: Array.from({ length: setups * trials }, (_, i) => ({
        id: `t${i}`,
        wave: "w",
        setup: Math.floor(i / trials) + 1,
        settings: middle,
      })),
    });
  const loss = (study: Study): number[] => study.trials.map((t) => runTrial(smokehouse, study, t, 1).loss as number);
  it("gives all trials of a set-up the same part, another in each, by its own standard deviations", () => {
    const [setups, trials] = [400, 4];
    const y = loss(house(setups, trials));
    const means = Array.from({ length: setups }, (_, g) =>
      y.slice(g * trials, (g + 1) * trials).reduce((t, v) => t + v / trials, 0),
    );
    const within = y.reduce((t, v, i) => t + (v - means[Math.floor(i / trials)]) ** 2, 0) / (setups * (trials - 1));
    const mean = means.reduce((t, v) => t + v / setups, 0);
    const between = means.reduce((t, v) => t + (v - mean) ** 2, 0) / (setups - 1) - within / trials;
    // Four standard errors of a variance on 1,200 and on 399 degrees of freedom.
    expect(Math.abs(within / 0.25 - 1)).toBeLessThan(4 * Math.sqrt(2 / 1200));
    expect(Math.abs((between + 0.0625) / (0.64 + 0.0625) - 1)).toBeLessThan(4 * Math.sqrt(2 / 399));
  });
  it("without marks every trial is a set-up of its own", () => {
    const marked = house(60, 4);
    const plain = { ...marked, trials: marked.trials.map(({ setup: _, ...t }) => t) };
    const y = loss(plain);
    const mean = y.reduce((t, v) => t + v / y.length, 0);
    const all = y.reduce((t, v) => t + (v - mean) ** 2, 0) / (y.length - 1);
    expect(Math.abs(all / (0.64 + 0.25) - 1)).toBeLessThan(4 * Math.sqrt(2 / (y.length - 1)));
  });
});
