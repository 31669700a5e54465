import { readFileSync } from "node:fs";
import { describe, expect, it } from "vitest";
import { readStudyFile } from "../formats/study-file";
import { fitModel } from "../model/fit";
import { adoptPlan } from "../plans/adopt";
import { followUp } from "../plans/follow-up/follow";
import type { Settings } from "../study/schema";
import { corners, plainStudy, withTrials } from "../testing/studies";
import { confirmation } from "./confirm";
import { shiftHalfWidth } from "./shift";

describe("confirmations with the variance between waves (definition 20)", () => {
  const settings = [...corners(2), ...corners(2), ...corners(2), ...corners(2)];
  const y = [18.3, 21.8, 18.4, 21.9, 19.15, 22.55, 19.05, 22.45, 18.95, 23.1, 18.6, 23.0, 17.35, 21.85, 17.25, 21.45];
  const waveOf = (i: number): string => (i < 4 ? "u" : i < 12 ? "v" : "w");
  const study = withTrials(plainStudy(2), settings, y, { wave: waveOf });
  const half = (of: typeof study, m: number): number | null => {
    const fit = fitModel(of, "y", { terms: [["a"], ["b"]] });
    const row = new Float64Array(fit.model.columns.length);
    fit.model.linear({ a: 0.5, b: -0.5 }, row);
    return shiftHalfWidth(fit, fit.model.predictive(row), { m }, 0.95);
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
