import { describe, expect, it } from "vitest";
import { modelReadings } from "../../findings/model";
import { fUpper, tQuantile } from "../../numerics/distributions";
import { confirmation } from "../../setpoint/confirm";
import type { Study } from "../../study/schema";
import { parseStudy } from "../../study/validate";
import { dot, regress } from "../../testing/elimination";
import { refusal } from "../../testing/studies";
import { messageText } from "../../words/answers";
import { alternativeFits } from "../alternative-fits";
import { runChecks } from "../checklist";
import { fitModel } from "../fit";
import { linearSurface } from "../linear-surface";

const EVENTS = [3, 9, 0, 6, 12, 25, 8, 17, 5, 8, 1, 4, 15, 22, 10, 20, 2, 7, 1, 9, 9, 21, 6, 18];
const SETTINGS = EVENTS.map((_, i) => ({
  heat: Math.floor(i / 4) % 2 === 0 ? -1 : 1,
  time: i % 2 === 0 ? -1 : 1,
  load: i % 4 < 2 ? -1 : 1,
}));
const ofOf = (kind: "share" | "count", i: number): number => (kind === "count" ? 2.5 + (i % 2) : 30 + 2 * (i % 3));

/** Six set-ups of four: heat hard to change, time and load at both ends within every one; three confirmations. */
function kiln(kind: "share" | "count", events: readonly number[] = EVENTS, confirmed: readonly number[] = []): Study {
  const results = (k: number, i: number) => ({ y: { events: k, of: ofOf(kind, i) } });
  const home = { heat: -1, time: -1, load: -1 };
  return parseStudy({
    format: "trialmoor-study",
    version: 1,
    title: "Kiln",
    factors: ["heat", "time", "load"].map((id) => ({
      id,
      kind: "continuous" as const,
      low: -1,
      high: 1,
      ...(id === "heat" ? { change: "hard" as const } : {}),
    })),
    responses: [
      { id: "y", name: "Cracked", measured: kind, goal: { aim: "lower", low: 0.05, high: kind === "share" ? 0.9 : 9 } },
    ],
    waves: [{ id: "w1" }, { id: "w2" }].slice(0, confirmed.length > 0 ? 2 : 1),
    trials: [
      ...events.map((k, i) => ({
        id: `t${i}`,
        wave: "w1",
        order: i + 1,
        setup: Math.floor(i / 4) + 1,
        state: "done" as const,
        settings: SETTINGS[i],
        results: results(k, i),
      })),
      ...confirmed.map((k, i) => ({
        id: `c${i}`,
        wave: "w2",
        order: 100 + i,
        setup: i + 1,
        kind: "confirm" as const,
        use: false,
        state: "done" as const,
        settings: home,
        results: results(k, 0),
      })),
    ],
    models: [{ response: "y", terms: [["heat"], ["time"], ["load"]] }],
    setpoint: { settings: home },
  });
}

describe.each(["share", "count"] as const)("a %s counted in set-ups", (kind) => {
  const study = kiln(kind);
  const terms = [["heat"], ["time"], ["load"]];
  const fit = fitModel(study, "y", { terms });
  const x = SETTINGS.map((s) => [1, s.heat, s.time, s.load]);
  // Half an event added, by hand (Haldane 1955).
  const z = EVENTS.map((k, i) =>
    Math.log(kind === "share" ? (k + 0.5) / (ofOf(kind, i) - k + 0.5) : (k + 0.5) / ofOf(kind, i)),
  );
  const { b, rss } = regress(x, z);
  const e = z.map((v, i) => v - dot(x[i], b));
  const means = [0, 1, 2, 3, 4, 5].map((g) => e.slice(4 * g, 4 * g + 4).reduce((t, v) => t + v, 0) / 4);
  const between = 4 * means.reduce((t, m) => t + m * m, 0);
  const [msb, msw] = [between / 4, (rss - between) / 16];

  it("is judged in two strata on the empirical scale, exactly where set-ups are balanced", () => {
    expect(fit.law).toBe("setups");
    expect(fit.model.likelihood).toBeNull();
    fit.parameters.forEach((p, j) => {
      expect(p.coefficient).toBeCloseTo(b[j], 10);
    });
    const row = (id: string) => fit.anova.find((r) => r.term?.[0] === id);
    expect(row("heat")?.p).toBeCloseTo(fUpper((24 * b[1] ** 2) / msb, 1, 4), 9);
    expect(row("time")?.p).toBeCloseTo(fUpper((24 * b[2] ** 2) / msw, 1, 16), 9);
    expect(fit.model.setups?.between).toBeCloseTo((msb - msw) / 4, 9);
  });
  it("is predicted as a share or a rate, with its own set-up in the interval of a trial", () => {
    const said = linearSurface(study, fit).predict({ heat: 1, time: 0, load: 0 });
    const back = (v: number): number => (kind === "share" ? 1 / (1 + Math.exp(-v)) : Math.exp(v));
    const value = b[0] + b[1];
    expect(said.mean).toBeCloseTo(back(value), 10);
    const half = tQuantile(0.975, 4) * Math.sqrt((2 * msb) / 24);
    expect(said.meanInterval?.[0]).toBeCloseTo(back(value - half), 9);
    expect(said.meanInterval?.[1]).toBeCloseTo(back(value + half), 9);
    expect((said.trialInterval?.[1] ?? 0) - (said.meanInterval?.[1] ?? 0)).toBeGreaterThan(0);
  });
  it("says how it is judged, and offers no scale of its own", () => {
    const [said] = modelReadings(study, fit).filter((r) => r.id === "empirical");
    expect(messageText("readings", said)).toMatch(
      kind === "share"
        ? /^In set-ups Cracked is judged by the logit of each trial’s share/
        : /logarithm of each trial’s rate/,
    );
    expect(runChecks(study, fit).some((c) => c.id === "scale")).toBe(false);
    expect(alternativeFits(study, fit).some((w) => w.by === "scale")).toBe(false);
    expect(refusal(() => fitModel(study, "y", { terms, transform: "log" }))).toMatch(/Cracked/);
  });
  it("is confirmed on the same scale, no events among its trials or some", () => {
    const tested = confirmation(kiln(kind, EVENTS, [1, 0, 2]));
    const mean = [1, 0, 2]
      .map((k) => Math.log(kind === "share" ? (k + 0.5) / (30 - k + 0.5) : (k + 0.5) / 2.5))
      .reduce((t, v) => t + v / 3, 0);
    const [verdict] = tested?.verdicts ?? [];
    expect(verdict.mean).toBeCloseTo(kind === "share" ? 1 / (1 + Math.exp(-mean)) : Math.exp(mean), 10);
    expect(confirmation(kiln(kind, EVENTS, [3, 2, 4]))?.agrees).toBe(true);
    expect(confirmation(kiln(kind, EVENTS, [28, 30, 29]))?.agrees).toBe(false);
  });
  it("tells nothing where no event was counted, or trials of a set-up do not differ", () => {
    expect(
      refusal(() =>
        fitModel(
          kiln(
            kind,
            EVENTS.map(() => 0),
          ),
          "y",
          { terms },
        ),
      ),
    ).toMatch(/Cracked/);
    if (kind === "share") return;
    // Counts in proportion to exposure differ by their halves alone; equal exposure makes them one value.
    const level = kiln(
      kind,
      EVENTS.map((_, i) => 3 + Math.floor(i / 4)),
    );
    const same = {
      ...level,
      trials: level.trials.map((t) => ({
        ...t,
        results: { y: { events: (t.results.y as { events: number }).events, of: 2 } },
      })),
    };
    expect(refusal(() => fitModel(same, "y", { terms }))).toMatch(/is the same in all trials of each of 6 set-ups/);
  });
});
