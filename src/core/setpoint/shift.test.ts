import { readFileSync } from "node:fs";
import { describe, expect, it } from "vitest";
import { followUp } from "../follow-up/follow";
import { readStudyFile } from "../formats/study-file";
import { fitModel } from "../model/fit";
import { linearSurface } from "../model/linear-surface";
import { tUpper } from "../numerics/distributions";
import { adoptPlan } from "../plans/adopt";
import { finish } from "../questions/ask";
import type { Settings, Study } from "../study/schema";
import { parseStudy } from "../study/validate";
import { presentLinear, presentPredictor } from "../surface/average";
import { corners, plainStudy, withTrials } from "../testing/studies";
import { chanceOf } from "./chance";
import { confirmation } from "./confirm";
import { setpointProblem } from "./goals";
import { shiftHalfWidth, waveLevels } from "./shift";

const chance = (study: Study, settings: Settings, wave?: string): number =>
  finish(chanceOf(setpointProblem(study), settings, { draws: 60_000, seed: 1, ...(wave ? { wave } : {}) })).together ??
  Number.NaN;
const tBelow = (t: number, df: number): number => 1 - tUpper(t, df);

describe("confirmations with the variance between waves (definition 20)", () => {
  const settings = [...corners(2), ...corners(2), ...corners(2), ...corners(2)];
  const y = [18.3, 21.8, 18.4, 21.9, 19.15, 22.55, 19.05, 22.45, 18.95, 23.1, 18.6, 23.0, 17.35, 21.85, 17.25, 21.45];
  const waveOf = (i: number): string => (i < 4 ? "u" : i < 12 ? "v" : "w");
  const study = withTrials(plainStudy(2), settings, y, { wave: waveOf });
  const half = (of: typeof study, m: number): number | null => {
    const fit = fitModel(of, "y", { terms: [["a"], ["b"]] });
    const row = new Float64Array(fit.model.columns.length);
    fit.model.linear({ a: 0.5, b: -0.5 }, row);
    return shiftHalfWidth(linearSurface(of, fit), fit.model.predictive(row), { m }, 0.95);
  };
  it("three waves of unlike size: 3.446 for the mean of three (numpy, four million draws)", () => {
    // M 0.47840, c 0.20833, s² 0.081080 on 11 df; 5,000 draws here leave about two percent.
    expect((half(study, 3) ?? 0) / 3.4465).toBeCloseTo(1, 1);
    expect(Math.abs((half(study, 3) ?? 0) / 3.4465 - 1)).toBeLessThan(0.05);
  });
  it("is the same whenever it is asked, wider than noise alone, and absent for one wave", () => {
    expect(half(study, 3)).toBe(half(study, 3));
    // t on 11 df times s·√(d + 1/3) is 0.42.
    expect(half(study, 3)).toBeGreaterThan(0.42);
    expect(half(withTrials(plainStudy(2), settings, y), 3)).toBeNull();
  });
});

describe("as in a wave, and in a new one (definition 48)", () => {
  const settings = [...corners(2), ...corners(2), ...corners(2)];
  const noise = [0.3, -0.2, 0.1, -0.25, -0.1, 0.35, -0.3, 0.2, 0.15, -0.4, 0.05, 0.1];
  const waveOf = (i: number): string => ["u", "v", "w"][Math.floor(i / 4)];
  const goal = { aim: "hit" as const, low: 8, target: 10, high: 12 };
  /** Three waves of a 2² about 10 + a, each so far from the first. */
  const studyOf = (apart: number, target = goal): Study =>
    parseStudy({
      ...withTrials(
        plainStudy(2, { responses: [{ id: "y", goal: target }] }),
        settings,
        settings.map((s, i) => 10 + (s.a as number) + apart * Math.floor(i / 4) + noise[i]),
        { wave: waveOf },
      ),
      models: [{ response: "y", terms: [["a"], ["b"]] }],
    });
  const at = { a: 0, b: 0 };
  const levelsOf = (study: Study) => waveLevels(study, study.responses[0], presentPredictor(study, "y"), at);
  const mean = (values: number[]): number => values.reduce((t, v) => t + v, 0) / values.length;
  it("the level of each wave is its own mean where all ran the same plan; new trials of it fall by its own error", () => {
    const study = studyOf(3);
    const found = levelsOf(study);
    const y = study.trials.map((t) => t.results.y as number);
    expect(found?.levels.map((l) => l.wave)).toEqual(["u", "v", "w"]);
    found?.levels.forEach((l, k) => {
      const own = y.slice(4 * k, 4 * k + 4);
      expect(l.mean).toBeCloseTo(mean(own), 9);
    });
    expect(found?.differ).toBe(true);
    // Residuals of wave means and two mains: 12 − 5 df; a wave's mean has variance σ²/4, t of 7 df is 2.364624.
    const { s } = presentLinear(study, "y").fit.summary;
    const half = 2.364624 * (s ?? 0) * Math.sqrt(1 + 1 / 4);
    const last = found?.levels[2];
    expect((last?.trialInterval?.[1] ?? 0) - (last?.mean ?? 0)).toBeCloseTo(half, 5);
    expect(levelsOf(studyOf(0))?.differ).toBe(false);
  });
  it("chance: as in a wave by that wave's level, else by how far waves lie apart; 95 of 100 within its interval", () => {
    const fresh = levelsOf(studyOf(3))?.fresh;
    const [low, high] = fresh?.trialInterval ?? [0, 0];
    expect(Math.abs(chance(studyOf(3, { ...goal, low, target: (low + high) / 2, high }), at) - 0.95)).toBeLessThan(
      0.01,
    );
    const study = studyOf(3);
    const [u, , w] = levelsOf(study)?.levels ?? [];
    const { s } = presentLinear(study, "y").fit.summary;
    const sd = (s ?? 0) * Math.sqrt(1.25);
    const share = (m: number): number => tBelow((12 - m) / sd, 7) - tBelow((8 - m) / sd, 7);
    expect(Math.abs(chance(study, at, "u") - share(u.mean))).toBeLessThan(0.01);
    expect(Math.abs(chance(study, at, "w") - share(w.mean))).toBeLessThan(0.01);
    // Six apart, the third wave stands beyond the limits for good.
    expect(share(u.mean) - share(w.mean)).toBeGreaterThan(0.9);
  });
  it("results at the level of a wave that was run refute nothing, and say which; elsewhere they do", () => {
    const verdictOf = (value: number) => {
      const study = studyOf(0.9);
      const { plan } = followUp({ ...study, setpoint: { settings: at, held: [] } }, { kind: "confirm", trials: 3, at });
      const adopted = adoptPlan(study, plan, "confirm");
      return confirmation({
        ...adopted,
        trials: adopted.trials.map((t) =>
          t.kind === "confirm" ? { ...t, state: "done" as const, use: false, results: { y: value } } : t,
        ),
      })?.verdicts[0];
    };
    const atLast = verdictOf(11.8);
    expect([atLast?.agrees, atLast?.agreesWith, atLast?.byWaves]).toEqual([true, ["w"], true]);
    // Outside where no shift is assumed.
    expect(11.8).toBeGreaterThan(atLast?.interval?.[1] ?? 99);
    expect(verdictOf(60)).toMatchObject({ agrees: false, agreesWith: [] });
  });
});

describe("counts in waves that lie apart", () => {
  const settings = [...corners(2), ...corners(2), ...corners(2)];
  const counted = (limits: [number, number]): Study => {
    const base = withTrials(plainStudy(2), settings, [], { wave: (i) => ["u", "v", "w"][Math.floor(i / 4)] });
    return parseStudy({
      ...base,
      responses: [
        { id: "y", measured: "count", of: 1, goal: { aim: "within", low: limits[0], high: limits[1] } },
      ] as never,
      models: [{ response: "y", terms: [["a"], ["b"]] }],
      trials: base.trials.map((t, i) => ({
        ...t,
        // 200 events, a tenth more with a, waves e^0.4 apart; off by less than counting scatters.
        results: {
          y: {
            events:
              Math.round(200 * Math.exp(0.1 * (t.settings.a as number) + 0.4 * Math.floor(i / 4))) + ((i * 5) % 7) - 3,
            of: 1,
          },
        },
      })),
    });
  };
  const at = { a: 0, b: 0 };
  it("levels lie apart as planted, a new wave may lie anywhere about them, and chances follow", () => {
    const study = counted([0, 1000]);
    const found = waveLevels(study, study.responses[0], presentPredictor(study, "y"), at);
    const [u, v, w] = found?.levels ?? [];
    expect(Math.log(v.mean / u.mean)).toBeCloseTo(0.4, 1);
    expect(Math.log(w.mean / u.mean)).toBeCloseTo(0.8, 1);
    expect(found?.differ).toBe(true);
    const [low, high] = found?.fresh?.trialInterval ?? [0, 0];
    expect(low).toBeLessThan(u.trialInterval?.[0] ?? 0);
    expect(high).toBeGreaterThan(w.trialInterval?.[1] ?? 1e9);
    expect(Math.abs(chance(counted([low, high]), at) - 0.95)).toBeLessThan(0.02);
    const own = u.trialInterval ?? [0, 0];
    expect(Math.abs(chance(counted(own), at, "u") - 0.955)).toBeLessThan(0.02);
    expect(chance(counted(own), at, "w")).toBeLessThan(0.01);
    expect(chance(counted(own), at)).toBeLessThan(0.6);
  });
});

describe("waves apart, confirmed in set-ups", () => {
  it("is never surer with the variance between waves than without, however few set-ups the trials share", () => {
    const smoke = readStudyFile(
      readFileSync(new URL("../../../examples/fish-smokehouse.trialmoor.json", import.meta.url), "utf8"),
    );
    const at = smoke.setpoint?.settings as Settings;
    // A set-up of its own for each trial, then one for all: the mean of the second keeps one set-up's whole error.
    const widths = [4, 2, 1].map((setups) => {
      const { plan } = followUp(smoke, { kind: "confirm", trials: 4, setups, at });
      const adopted = adoptPlan(smoke, plan, "confirm");
      const ran = {
        ...adopted,
        trials: adopted.trials.map((t) =>
          t.kind === "confirm" ? { ...t, state: "done" as const, use: false, results: { loss: 17 } } : t,
        ),
      };
      const verdict = confirmation(ran)?.verdicts.find((v) => v.response === "loss");
      const width = (i: [number, number] | null | undefined): number => (i ? i[1] - i[0] : Number.NaN);
      return { plain: width(verdict?.interval), waves: width(verdict?.withWaves) };
    });
    for (const w of widths) expect(w.waves).toBeGreaterThan(w.plain);
    expect(widths[1].plain).toBeGreaterThan(widths[0].plain);
    expect(widths[2].waves).toBeGreaterThan(widths[1].waves);
  });
});
