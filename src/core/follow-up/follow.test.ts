import { describe, expect, it } from "vitest";
import { regularOf } from "../appraisal/aliasing";
import { appraise } from "../appraisal/appraise";
import { pointModel, pointsOf } from "../appraisal/terms-info";
import { planReadings } from "../findings/plan";
import { seededRandom } from "../numerics/random";
import { offeredOptions, summariseFollowUp } from "../planning/next-wave-summary";
import { adoptPlan } from "../plans/adopt";
import { makePlan } from "../plans/make-plan";
import { ask, finish } from "../questions/ask";
import { capability } from "../setpoint/capability";
import { confirmation } from "../setpoint/confirm";
import { setpointProblem } from "../setpoint/goals";
import type { Settings, Study } from "../study/schema";
import { parseStudy } from "../study/validate";
import { termSet } from "../terms/candidates";
import { determinant, gram, regress } from "../testing/elimination";
import { cat, cont, corners, digits, plainStudy, refusal, studyOf, withTrials } from "../testing/studies";
import { messageText } from "../words/answers";
import { followUp } from "./follow";
import type { FollowOffer } from "./kind";
import { nextWaves } from "./next-waves";
import type { FollowOptions } from "./options";

/** The study after its first wave of a family. */
const ran = (study: Study, options: Parameters<typeof makePlan>[1]): Study =>
  adoptPlan(study, makePlan(study, options));
const settingsOf = (study: Study): Settings[] => study.trials.map((t) => t.settings);
const followed = (study: Study, options: FollowOptions): Study =>
  parseStudy(adoptPlan(study, followUp(study, options).plan));
const distinct = (settings: Settings[]): number =>
  new Set(settings.map((s) => JSON.stringify(Object.entries(s).sort()))).size;
const oneBlock = (study: Study) => ({ settings: settingsOf(study), waves: study.trials.map(() => "") });

/** Why a wave is offered; nothing where nothing asks for it. */
const whyText = (offer: FollowOffer): string => (offer.why ? messageText("whys", offer.why) : "");

describe("fold-over (Box & Hunter 1961)", () => {
  it("of a fraction of resolution III makes resolution IV", () => {
    const study = ran(plainStudy(7), { family: "fraction", trials: 8 });
    expect(regularOf(study, oneBlock(study))?.resolution).toBe(3);
    const folded = followed(study, { kind: "foldover" });
    expect(folded.trials).toHaveLength(16);
    expect(regularOf(folded, oneBlock(folded))?.resolution).toBe(4);
  });
  it("of one factor parts that factor and all its interactions: only words without it are left", () => {
    const study = ran(plainStudy(6), { family: "fraction", trials: 16 });
    const folded = followed(study, { kind: "foldover", factors: ["A"] });
    const words = regularOf(folded, oneBlock(folded))?.definingRelation ?? [];
    expect(words.length).toBeGreaterThan(0);
    expect(words.every((w) => !w.includes("A"))).toBe(true);
  });
  it("is refused where every word is even, for then it repeats the plan", () => {
    const study = ran(plainStudy(4), { family: "fraction", trials: 8 });
    expect(refusal(() => followUp(study, { kind: "foldover" }))).toContain("the same trials again");
  });
  it("says which words stand for the shift between waves from now on", () => {
    const study = ran(plainStudy(3), { family: "fraction", generators: "C=AB" });
    expect(followUp(study, { kind: "foldover" }).cautions[0]).toEqual({
      code: "fold-block",
      values: { words: ["ABC"], more: false },
    });
  });
  it("in half runs half, and parts pairs that travelled together", () => {
    const study = ran(plainStudy(4), { family: "fraction", trials: 8 });
    const { plan } = followUp(study, { kind: "foldover", half: true });
    expect(plan.trials).toHaveLength(4);
    const points = pointsOf(adoptPlan(study, plan));
    // Mee & Peralta (2000): with half a fold-over all six pairs of a 2⁴⁻¹ can be estimated beside the mains and the
    // block.
    expect(pointModel(study, points, termSet(study, "main+2fi")).rank.rank).toBe(12);
  });
  it("turns about the ranges its wave was planned with, though they have moved since", () => {
    const study = ran(plainStudy(3), { family: "fraction", generators: "C=AB" });
    const moved = parseStudy({
      ...study,
      factors: study.factors.map((f) => (f.id === "a" ? { ...f, low: 0, high: 3 } : f)),
    });
    const folded = followed(moved, { kind: "foldover" });
    expect(new Set(folded.trials.map((t) => t.settings.a))).toEqual(new Set([-1, 1]));
    expect(distinct(settingsOf(folded))).toBe(8);
  });
  it("has no opposite for three levels, and none without corners", () => {
    const wide = ran(studyOf([cont("a"), cat("lot", "p", "q", "r")]), { family: "factorial" });
    expect(refusal(() => followUp(wide, { kind: "foldover" }))).toContain("lot has more than two levels");
    expect(followUp(wide, { kind: "foldover", factors: ["a"] }).plan.trials).toHaveLength(6);
    expect(refusal(() => followUp(plainStudy(2), { kind: "foldover" }))).toContain("plan a first wave");
  });
});

describe("the missing fraction", () => {
  it("of 2⁴⁻¹ makes the whole 2⁴", () => {
    const study = ran(plainStudy(4), { family: "fraction", trials: 8 });
    expect(distinct(settingsOf(followed(study, { kind: "missing-fraction" })))).toBe(16);
  });
  it("of 2⁷⁻⁴ is the one that makes resolution IV", () => {
    const study = ran(plainStudy(7), { family: "fraction", trials: 8 });
    const both = followed(study, { kind: "missing-fraction" });
    expect(regularOf(both, oneBlock(both))?.resolution).toBe(4);
  });
  it("of fifteen factors, where the family is too large to list, still parts what it can", () => {
    const study = ran(plainStudy(15), { family: "fraction", trials: 32 });
    const both = followed(study, { kind: "missing-fraction" });
    expect(both.trials).toHaveLength(64);
    const tells = (s: Study): number => pointModel(s, pointsOf(s), termSet(s, "main+2fi")).rank.rank;
    expect(tells(both)).toBeGreaterThan(tells(study));
  });
  it("is refused for what is no fraction", () => {
    expect(
      refusal(() => followUp(ran(plainStudy(3), { family: "factorial" }), { kind: "missing-fraction" })),
    ).toContain("not a regular fraction");
  });
});

describe("axial points", () => {
  it("say where they stand: on the faces, or at 8^¼ where hard limits let them", () => {
    const cautions = (more: object) => {
      const study = ran({ ...plainStudy(3), factors: plainStudy(3).factors.map((f) => ({ ...f, ...more })) } as Study, {
        family: "factorial",
      });
      return followUp(study, { kind: "axial" }).cautions;
    };
    expect(cautions({})).toEqual([{ code: "axial-faces", values: { star: expect.closeTo(8 ** 0.25, 12) } }]);
    expect(cautions({ hardLow: -2, hardHigh: 2 })).toEqual([
      { code: "axial-star", values: { at: expect.closeTo(8 ** 0.25, 12), factors: 3 } },
    ]);
  });
  it("with orthogonal blocks for three factors, four centres with the corners, two with the axials: α = 1.633 (Box & Hunter 1957)", () => {
    const study = ran(plainStudy(3), { family: "factorial", centre: 4 });
    const both = followed(study, { kind: "axial", axial: "orthogonal-blocks", centre: 2 });
    const axial = both.trials.filter((t) => t.kind === "axial");
    expect(axial).toHaveLength(6);
    expect(Math.max(...axial.map((t) => t.settings.a as number))).toBeCloseTo(1.633, 3);
    // Orthogonal blocking: the mean of each square is the same in both waves.
    const mean = (wave: string): number => {
      const own = both.trials.filter((t) => t.wave === wave);
      return own.reduce((t, x) => t + (x.settings.a as number) ** 2, 0) / own.length;
    };
    expect(mean(both.waves[0].id)).toBeCloseTo(mean(both.waves[1].id), 12);
  });
  it("stand at the faces unless asked farther, makes every square estimable, and keeps the ledger", () => {
    const study = ran(plainStudy(3), { family: "factorial", centre: 3 });
    const both = followed(study, { kind: "axial" });
    expect(both.trials.slice(0, study.trials.length).map((t) => t.settings)).toEqual(settingsOf(study));
    expect(Math.max(...both.trials.map((t) => t.settings.a as number))).toBe(1);
    expect(pointModel(both, pointsOf(both), termSet(both, "quadratic")).rank.dropped).toEqual([]);
    expect(both.trials.map((t) => t.order)).toEqual(both.trials.map((_, i) => i + 1));
  });
  it("for named factors alone move those alone", () => {
    const both = followed(ran(plainStudy(3), { family: "factorial" }), { kind: "axial", factors: ["b"], centre: 0 });
    const own = both.trials.filter((t) => t.kind === "axial");
    expect(own.map((t) => t.settings.b).sort()).toEqual([-1, 1]);
    expect(own.every((t) => t.settings.a === 0 && t.settings.c === 0)).toBe(true);
  });
});

describe("axial points beside categories", () => {
  it("stand in pairs at one level, so that no sign travels with a level", () => {
    const study = studyOf([cont("a"), cont("b"), cat("k", "p", "q")]);
    const { plan } = followUp(ran(study, { family: "factorial" }), { kind: "axial", axial: "face", centre: 0 });
    for (const id of ["a", "b"]) {
      const pair = plan.trials.filter((t) => t.settings[id] !== 0);
      expect(pair.map((t) => t.settings[id]).sort()).toEqual([-1, 1]);
      expect(new Set(pair.map((t) => t.settings.k)).size).toBe(1);
    }
    expect(new Set(plan.trials.map((t) => t.settings.k)).size).toBe(2);
  });
});

describe("augmentation, carrying on, repeating", () => {
  it("keeps every trial and estimates what it was asked for", () => {
    const study = ran(plainStudy(4), { family: "fraction", trials: 8 });
    const both = followed(study, { kind: "augment", trials: 6, terms: "main+2fi" });
    expect(both.trials.slice(0, 8).map((t) => [t.id, t.settings])).toEqual(study.trials.map((t) => [t.id, t.settings]));
    expect(pointModel(both, pointsOf(both), termSet(both, "main+2fi")).rank.dropped).toEqual([]);
  });
  it("eight more trials for twelve named terms are those of a coordinate exchange (Meyer & Nachtsheim 1995), or better", () => {
    const study = ran(plainStudy(6), { family: "fraction", trials: 16 });
    const pairs = ["ab", "ac", "ad", "be", "ae", "bc"].map((p) => p.split(""));
    const terms = [...study.factors.map((f) => [f.id]), ...pairs];
    const own = followed(study, { kind: "augment", trials: 8, terms }).trials;
    const row = (point: readonly number[], wave: number): number[] => [
      1,
      wave,
      ...terms.map((t) => t.reduce((p, id) => p * point[study.factors.findIndex((f) => f.id === id)], 1)),
    ];
    const pointOf = (t: { settings: Settings }): number[] => study.factors.map((f) => t.settings[f.id] as number);
    const first = study.trials.map((t) => row(pointOf(t), -1));
    const worth = (points: readonly (readonly number[])[]): number =>
      determinant(gram([...first, ...points.map((p) => row(p, 1))]));
    const random = seededRandom(20261202);
    const exchanged = Array.from({ length: 5 }, () => {
      const points = Array.from({ length: 8 }, () =>
        study.factors.map((): number => (random.uniform() < 0.5 ? -1 : 1)),
      );
      for (let best = worth(points), better = true; better; ) {
        better = false;
        for (const point of points)
          for (const j of point.keys()) {
            point[j] = -point[j];
            const now = worth(points);
            if (now > best * (1 + 1e-9)) {
              best = now;
              better = true;
            } else point[j] = -point[j];
          }
      }
      return worth(points);
    });
    expect(own).toHaveLength(24);
    // Of fourteen columns: the mean information of a term, within 1 % of the best of five starts.
    expect((worth(own.slice(16).map(pointOf)) / Math.max(...exchanged)) ** (1 / 14)).toBeGreaterThan(0.99);
  });
  it("carries two of four factors on: the four corners already run serve, faces and centres are new, idle factors held", () => {
    const study = ran(plainStudy(4), { family: "fraction", trials: 8 });
    const done = parseStudy({ ...study, trials: study.trials.map((t) => ({ ...t, state: "done" })) });
    const { plan, cautions } = followUp(done, { kind: "carry", factors: ["a", "b"], at: { c: 0.5, d: -1 } });
    expect(plan.trials).toHaveLength(7);
    expect(plan.trials.every((t) => t.settings.c === 0.5 && t.settings.d === -1)).toBe(true);
    expect(cautions[0]).toMatchObject({ code: "reused", values: { served: 4, points: 11 } });
  });
  it("says what idle factors that stood elsewhere may add: the far end of their intervals (definition 30)", () => {
    const study = ran(plainStudy(4), { family: "fraction", trials: 8 });
    const y = [10.2, 14.1, 12.3, 16.2, 10.5, 13.8, 12.1, 15.9];
    const trials = study.trials.map((t, i) => ({ ...t, state: "done" as const, results: { y: y[i] } }));
    const terms = [["a"], ["b"], ["c"], ["d"]];
    const done = parseStudy({ ...study, trials, models: [{ response: "y", terms }] });
    const { cautions } = followUp(done, { kind: "carry", factors: ["a", "b"], at: { c: 0.5, d: -1 } });
    const rows = done.trials.map((t) => [1, ...["a", "b", "c", "d"].map((id) => t.settings[id] as number)]);
    const own = regress(
      rows,
      done.trials.map((t) => t.results.y as number),
    );
    // t on 3 df at 97.5 %: 3.182446.
    const most = (j: number): number => {
      const half = 3.182446 * Math.sqrt((own.rss / own.df) * own.inverse(rows[0].map((_, k) => (k === j ? 1 : 0))));
      return 2 * Math.max(Math.abs(own.b[j] - half), Math.abs(own.b[j] + half));
    };
    // Served trials stand up to 1.5 coded units from c = 0.5 and 2 from d = −1; an effect runs over two.
    const bias = (1.5 / 2) * most(3) + most(4);
    const said = messageText("remarks", cautions[0]);
    expect(said).toMatch(/^4 of the 11 points are trials already run, with c and d not where they are held now/);
    expect(said).toContain(`may move y by up to ${Number(bias.toPrecision(2))}.`);
  });
  it("carries on by the family asked for, and augments by the criterion asked for", () => {
    const study = ran(plainStudy(4), { family: "fraction", trials: 8 });
    expect(followUp(study, { kind: "carry", factors: ["a", "b"], family: "factorial" }).plan.trials).toHaveLength(4);
    const judged = (criterion: "D" | "I"): number => {
      const both = followed(study, { kind: "augment", trials: 10, terms: "quadratic", criterion });
      return appraise(both, { terms: termSet(both, "quadratic") }).efficiency.i ?? Number.NaN;
    };
    expect(judged("I")).toBeLessThan(judged("D"));
  });
  it("refuses to carry on in a plan whose points have all been run, and says what to ask instead", () => {
    const study = ran(plainStudy(4), { family: "fraction", trials: 8 });
    const done = parseStudy({ ...study, trials: study.trials.map((t) => ({ ...t, state: "done" })) });
    expect(refusal(() => followUp(done, { kind: "carry", factors: ["a", "b"], family: "factorial" }))).toMatch(
      /^4 trials already run are all that this plan of a and b asks for; choose another plan or more trials\.$/,
    );
  });
  it("repeats distinct settings once, or what was picked as often as asked", () => {
    const study = ran(plainStudy(2), { family: "factorial", replicates: 2 });
    expect(followUp(study, { kind: "repeat" }).plan.trials).toHaveLength(4);
    expect(
      followUp(study, { kind: "repeat", of: [study.trials[0].id], trials: 3 }).plan.trials.map((t) => t.settings),
    ).toEqual([1, 2, 3].map(() => study.trials[0].settings));
  });
  it("centre points alone cannot tell a bend from a shift, and say so", () => {
    expect(followUp(ran(plainStudy(2), { family: "factorial" }), { kind: "centre" }).cautions[0]).toEqual({
      code: "centre-alone",
      values: {},
    });
  });
});

/** A straight line: 1, 3 at low, 5, 7 at high. ŷ = 4 + 2a, s² = 2 on 2 df. */
const line = (): Study =>
  parseStudy({
    ...withTrials(
      plainStudy(1, { responses: [{ id: "y", goal: { aim: "raise", low: 4, high: 9 } }] }),
      [{ a: -1 }, { a: -1 }, { a: 1 }, { a: 1 }],
      [1, 3, 5, 7],
    ),
    models: [{ response: "y", terms: [["a"]] }],
    setpoint: { settings: { a: 1 } },
  });
const confirmed = (values: number[]): Study => {
  const planned = adoptPlan(line(), followUp(line(), { kind: "confirm", trials: values.length }).plan, "confirm");
  let i = 0;
  return parseStudy({
    ...planned,
    trials: planned.trials.map((t) =>
      t.kind === "confirm" ? { ...t, state: "done", results: { y: values[i++] } } : t,
    ),
  });
};

describe("confirmation", () => {
  it("runs the setpoint, out of the models", () => {
    const study = confirmed([6, 6, 6]);
    const own = study.trials.filter((t) => t.kind === "confirm");
    expect(own).toHaveLength(3);
    expect(own.every((t) => !t.use && t.why === "confirmation" && t.settings.a === 1)).toBe(true);
  });
  it("is judged by ŷ ± t·s·√(d + 1/m): at a = 1, d = 1/2", () => {
    const [v] = confirmation(confirmed([5, 6.5, 7.1]))?.verdicts ?? [];
    // On 2 df the quantile has a closed form: (2p − 1)·√(2/(1 − (2p − 1)²)) at p = 0.975.
    const half = 0.95 * Math.sqrt(2 / (1 - 0.95 ** 2)) * Math.sqrt(2) * Math.sqrt(0.5 + 1 / 3);
    expect(v.predicted).toBeCloseTo(6, 12);
    expect(digits(v.interval?.[0], 6 - half)).toBeGreaterThan(11);
    expect(digits(v.interval?.[1], 6 + half)).toBeGreaterThan(11);
    expect(v.agrees).toBe(true);
    expect(v.meetsLimits).toBe(true);
    expect(digits(v.ppk, (18.6 / 3 - 4) / (3 * Math.sqrt(2)))).toBeGreaterThan(11);
  });
  it("on another scale is judged there and told on its own: the line above as the logarithm of what is measured", () => {
    const raised = (values: number[]): Study => {
      const plain = confirmed(values);
      return parseStudy({
        ...plain,
        responses: [{ id: "y", goal: { aim: "raise", low: Math.exp(4), high: Math.exp(9) } }],
        trials: plain.trials.map((t) => ({ ...t, results: { y: Math.exp(t.results.y as number) } })),
        models: [{ response: "y", terms: [["a"]], transform: "log" }],
      });
    };
    const [plain] = confirmation(confirmed([5, 6.5, 7.1]))?.verdicts ?? [];
    const [v] = confirmation(raised([5, 6.5, 7.1]))?.verdicts ?? [];
    expect(digits(v.predicted, Math.exp(6))).toBeGreaterThan(11);
    expect(digits(v.interval?.[0], Math.exp(plain.interval?.[0] ?? 0))).toBeGreaterThan(10);
    expect(digits(v.interval?.[1], Math.exp(plain.interval?.[1] ?? 0))).toBeGreaterThan(10);
    // The mean of three logarithms brought back: the geometric mean.
    expect(digits(v.mean, Math.exp(18.6 / 3))).toBeGreaterThan(12);
    expect([v.agrees, v.meetsLimits, v.ppk]).toEqual([true, true, null]);
    expect(confirmation(raised([13, 14, 15]))?.agrees).toBe(false);
  });
  it("that fails says what to suspect; while results are missing there is no verdict", () => {
    const c = confirmation(confirmed([13, 14, 15]));
    expect(c?.agrees).toBe(false);
    expect(
      c?.suspects.some((s) => s.what === "drift" && messageText("suspects", s).startsWith("Drift") && s.figure === 1),
    ).toBe(true);
    const open = parseStudy({
      ...confirmed([6, 6]),
      trials: confirmed([6, 6]).trials.map((t) => (t.kind === "confirm" ? { ...t, results: {} } : t)),
    });
    expect(confirmation(open)?.agrees).toBeNull();
  });
  it("needs a setpoint, or a place", () => {
    const none = parseStudy({ ...line(), setpoint: undefined });
    expect(refusal(() => followUp(none, { kind: "confirm" }))).toContain("no setpoint");
    expect(followUp(none, { kind: "confirm", at: { a: 0 }, trials: 2 }).plan.trials.map((t) => t.settings.a)).toEqual([
      0, 0,
    ]);
  });
  it("capability by hand: (6 − 4)/(3√2), bound by Bissell's formula", () => {
    const [c] = capability(setpointProblem(line()), { a: 1 });
    const ppk = 2 / (3 * Math.SQRT2);
    expect(digits(c.ppk, ppk)).toBeGreaterThan(11);
    expect(c.lower).toBeCloseTo(ppk - 1.6448536269514722 * Math.sqrt(1 / 27 + ppk ** 2 / 4), 10);
  });
});

describe("what the study needs next", () => {
  // 2⁴⁻¹ with D = ABC: A, B and AB act, and AB travels with CD.
  const chained = (): Study => {
    const study = ran(plainStudy(4), { family: "fraction", trials: 8, centre: 2 });
    const noise = [0.11, -0.07, 0.05, -0.12, 0.08, -0.03, 0.02, -0.06, 0.04, -0.02];
    return parseStudy({
      ...study,
      trials: study.trials.map((t, i) => ({
        ...t,
        state: "done",
        results: {
          y:
            5 +
            3 * (t.settings.a as number) +
            2 * (t.settings.b as number) +
            2 * (t.settings.a as number) * (t.settings.b as number) +
            noise[i],
        },
      })),
      models: [{ response: "y", terms: [["a"], ["b"], ["a", "b"]] }],
    });
  };
  it("an active chain asks for the wave that parts it, by name", () => {
    const offers = nextWaves(chained());
    expect(whyText(offers[0])).toContain("AB = CD");
    expect(offers.filter((o) => whyText(o).includes("AB = CD")).map((o) => o.options.kind)).toContain(
      "missing-fraction",
    );
  });
  it("without an active interaction no chain is worth a wave", () => {
    const quiet = parseStudy({ ...chained(), models: [{ response: "y", terms: [["a"], ["b"]] }] });
    expect(nextWaves(quiet).some((o) => whyText(o).includes("="))).toBe(false);
  });
  it("a bent centre asks for axial points, a setpoint for its confirmation", () => {
    const study = chained();
    const bent = parseStudy({
      ...study,
      trials: study.trials.map((t) => (t.kind === "centre" ? { ...t, results: { y: 9 + (t.order % 2) * 0.1 } } : t)),
      setpoint: { settings: { a: 1, b: 1, c: 0, d: 0 } },
    });
    const needed = nextWaves(bent).filter((o) => o.why);
    expect(needed.map((o) => o.options.kind)).toContain("axial");
    expect(needed.map((o) => o.options.kind)).toContain("confirm");
    expect(nextWaves(study).filter((o) => o.why && o.options.kind === "axial")).toEqual([]);
  });
  it("its table says what the missing fraction parts, with figures before and after", () => {
    const study = chained();
    const offer = nextWaves(study).find((o) => o.options.kind === "missing-fraction");
    const ask = {
      terms: "main+2fi" as const,
      budget: 40,
      replicates: 1,
      centre: 0,
      blocks: 1,
      power: 0.8,
      alpha: 0.05,
      seed: 1,
      standardOrder: false,
    };
    if (!offer) throw new Error("The missing fraction is not on offer.");
    const summary = summariseFollowUp(study, offer, followUp(study, offeredOptions(study, offer, ask)), ask);
    expect(summary.n).toBe(8);
    expect(summary.follow?.before.estimable).toBe(7);
    expect(summary.follow?.after.estimable).toBe(10);
    expect(summary.follow?.parted).toHaveLength(3);
    const reading = planReadings(study, ask, { summaries: [summary], picked: [summary] }).find(
      (r) => r.id === "next-wave",
    );
    expect(reading && messageText("readings", reading)).toContain("AB = CD");
    expect(reading && messageText("readings", reading)).toContain(
      "parts 3 pairs of effects, tells 10 of 10 effects instead of 7",
    );
    const plain = { ...summary, follow: { ...(summary.follow as NonNullable<typeof summary.follow>) } };
    delete plain.follow.why;
    expect(planReadings(study, ask, { summaries: [plain], picked: [plain] }).some((r) => r.id === "next-wave")).toBe(
      false,
    );
  });
  it("a path out of the ranges can be had though the limit is met within them, and is needed where it is not", () => {
    const climbs = (low: number): FollowOffer[] =>
      nextWaves(
        parseStudy({ ...chained(), responses: [{ id: "y", goal: { aim: "raise", low, high: low + 10 } }] }),
      ).filter((o) => o.options.kind === "ascent");
    expect(climbs(-50).map((o) => [o.options.response, o.why])).toEqual([["y", undefined]]);
    expect(climbs(500).map((o) => o.why?.code)).toEqual(["uphill"]);
    // How far factors can be set nobody has said: it is asked before anything is planned out there.
    expect(climbs(500)[0].open?.map((b) => [b.factor, b.limit])).toContainEqual(["a", "hardHigh"]);
    expect(refusal(() => finish(ask("follow", chained(), { kind: "ascent" })))).toMatch(
      /^The path leaves the ranges: its next step would set .* Say how far .* can be set, as (a hard limit|hard limits)/,
    );
  });
  it("a path is filled in from the model and run in order", () => {
    const open = chained();
    const study = parseStudy({
      ...open,
      factors: open.factors.map((f) => ({ ...f, hardLow: -9, hardHigh: 9 })),
      responses: [{ id: "y", goal: { aim: "raise", low: 20, high: 30 } }],
    });
    expect(nextWaves(study).find((o) => o.options.kind === "ascent")?.open).toBeUndefined();
    const follow = { plan: finish(ask("follow", study, { kind: "ascent", trials: 3 })) };
    expect(follow.plan.trials.map((t) => t.kind)).toEqual(["path", "path", "path"]);
    const climbed = follow.plan.trials.map((t) => t.settings.a as number);
    expect([...climbed].sort((p, q) => p - q)).toEqual(climbed);
  });
  it("before and after of the verb are the trials without and with the wave", () => {
    const study = chained();
    const answer = finish(ask("follow", study, { kind: "missing-fraction", terms: "main+2fi" }));
    expect([answer.before?.n, answer.after.n]).toEqual([10, 18]);
    expect([answer.before?.lost.length, answer.after.lost.length]).toEqual([3, 0]);
  });
});

describe("corners", () => {
  it("of a full factorial need no fold-over to tell pairs apart", () => {
    const study = withTrials(plainStudy(3), corners(3), [1, 2, 3, 4, 5, 6, 7, 8]);
    expect(nextWaves(study).every((o) => o.options.kind !== "missing-fraction")).toBe(true);
  });
});
