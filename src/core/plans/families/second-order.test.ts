import { describe, expect, it } from "vitest";
import { pointModel } from "../../appraisal/terms-info";
import { varianceReader } from "../../appraisal/variance";
import type { Settings, Study } from "../../study/schema";
import { termSet } from "../../terms/candidates";
import { encoder } from "../../terms/model-matrix";
import { cat, cont, plainStudy, pointsOf, refusal, studyOf, sum } from "../../testing/studies";
import { makePlan } from "../make-plan";
import type { Plan } from "../plan";

describe("Box–Behnken", () => {
  it("of three factors is the printed set of edge midpoints (Box & Behnken 1960)", () => {
    const p = makePlan(plainStudy(3), { family: "box-behnken", centre: 3 });
    const got = p.trials.map((t) => `${t.settings.a},${t.settings.b},${t.settings.c}`).sort();
    const want: string[] = ["0,0,0", "0,0,0", "0,0,0"];
    for (const i of [-1, 1]) for (const j of [-1, 1]) want.push(`${i},${j},0`, `${i},0,${j}`, `0,${i},${j}`);
    expect(got).toEqual(want.sort());
  });

  // Base runs of the 1960 paper; every factor stands at an end equally often, and every pair of ends is balanced.
  it.each([
    [3, 12],
    [4, 24],
    [5, 40],
    [6, 48],
    [7, 56],
  ])("of %i factors has %i base trials with balanced moments", (k, n) => {
    const p = makePlan(plainStudy(k), { family: "box-behnken" });
    expect(p.trials).toHaveLength(n);
    const ids = plainStudy(k).factors.map((f) => f.id);
    const moment = (f: (s: Settings) => number): number => sum(p.trials.map((t) => f(t.settings)));
    const squares = ids.map((id) => moment((s) => (s[id] as number) ** 2));
    expect(new Set(squares).size).toBe(1);
    for (const a of ids)
      for (const b of ids) if (a !== b) expect(moment((s) => (s[a] as number) * (s[b] as number))).toBe(0);
    for (const t of p.trials) expect(ids.some((id) => t.settings[id] === 0)).toBe(true);
  });

  it.each([
    [4, 3],
    [5, 2],
    [6, 2],
    [7, 2],
  ])("of %i factors splits into %i blocks orthogonal to every quadratic term", (k, blocks) => {
    const s = plainStudy(k);
    const p = makePlan(s, { family: "box-behnken", blocks, centre: 2 * blocks });
    const encoded = encoder(s, termSet(s, "quadratic"));
    const rows = p.trials.map((t) => {
      const row = new Float64Array(encoded.columns.length);
      encoded.row(t.settings, row);
      return row;
    });
    const waves = [...new Set(p.trials.map((t) => t.wave))];
    expect(waves).toHaveLength(blocks);
    for (let c = 1; c < encoded.columns.length; c++) {
      const means = waves.map((w) => {
        const own = rows.filter((_, i) => p.trials[i].wave === w);
        return sum(own.map((r) => r[c])) / own.length;
      });
      for (const m of means) expect(m).toBeCloseTo(means[0], 12);
    }
  });

  it("refuses in the words of the trade", () => {
    expect(refusal(() => makePlan(plainStudy(3), { family: "box-behnken", blocks: 2 }))).toContain(
      "no orthogonal blocks",
    );
    expect(
      refusal(() => makePlan(studyOf([cont("a"), cont("b"), cat("c", "x", "y")]), { family: "box-behnken" })),
    ).toBe("Box–Behnken needs three to seven numeric factors; this study has two numeric factors and a category.");
    expect(refusal(() => makePlan(plainStudy(4), { family: "box-behnken", blocks: 2 }))).toContain(
      "splits into three orthogonal blocks",
    );
  });
});

describe("Central composite", () => {
  const axial = (p: Plan): number =>
    Math.max(...p.trials.filter((t) => t.kind === "axial").map((t) => t.coded.a as number));

  it.each([2, 3, 4, 5, 6, 7, 8])(
    "of %i factors, rotatable, predicts equally well at equal distance (Box & Hunter 1957)",
    (k) => {
      const s = plainStudy(k);
      const p = makePlan(s, { family: "composite", axial: "rotatable", centre: 4 });
      const cube = p.trials.filter((t) => t.kind === "factorial").length;
      expect(axial(p)).toBeCloseTo(cube ** 0.25, 14);
      const terms = termSet(s, "quadratic");
      const model = pointModel(s, pointsOf(p), terms);
      expect(model.rank.dropped).toEqual([]);
      const d = varianceReader(encoder(s, terms), model.kept, model.inverse);
      const at = (direction: number[]): number => {
        const norm = Math.hypot(...direction);
        return d(Object.fromEntries(s.factors.map((f, j) => [f.id, (0.8 * direction[j]) / norm])));
      };
      const first = at(Array.from({ length: k }, (_, j) => (j === 0 ? 1 : 0)));
      expect(at(new Array(k).fill(1)) / first).toBeCloseTo(1, 9);
      expect(at(Array.from({ length: k }, (_, j) => j - 0.3)) / first).toBeCloseTo(1, 9);
    },
  );

  // Axial distances and blocks as tabulated by Box & Hunter (1957) for these centre points.
  it.each([
    [2, 2, 6, Math.SQRT2],
    [3, 3, 6, 1.6329931618554521],
    [4, 3, 6, 2],
  ])("of %i factors in %i blocks with %i centre points has orthogonal blocks at %f", (k, blocks, centre, alpha) => {
    const s = plainStudy(k);
    const p = makePlan(s, { family: "composite", axial: "orthogonal-blocks", blocks, centre });
    expect(axial(p)).toBeCloseTo(alpha, 12);
    const encoded = encoder(s, termSet(s, "quadratic"));
    const waves = [...new Set(p.trials.map((t) => t.wave))];
    expect(waves).toHaveLength(blocks);
    for (let c = 1; c < encoded.columns.length; c++) {
      const means = waves.map((w) => {
        const own = p.trials.filter((t) => t.wave === w);
        return (
          sum(
            own.map((t) => {
              const row = new Float64Array(encoded.columns.length);
              encoded.row(t.settings, row);
              return row[c];
            }),
          ) / own.length
        );
      });
      for (const m of means) expect(m).toBeCloseTo(means[0], 12);
    }
  });

  it("keeps to what the machine can do: face, shrunk, or refused", () => {
    const hard = (h: number): Study =>
      studyOf([cont("a", { hardLow: -h, hardHigh: h }), cont("b", { hardLow: -3, hardHigh: 3 })]);
    expect(axial(makePlan(hard(1), { family: "composite" }))).toBe(1);
    expect(axial(makePlan(hard(1.2), { family: "composite" }))).toBeCloseTo(1.2, 12);
    expect(axial(makePlan(hard(2), { family: "composite" }))).toBeCloseTo(Math.SQRT2, 12);
    expect(refusal(() => makePlan(hard(1.2), { family: "composite", axial: "rotatable" }))).toContain(
      "a can be run at (1.200)",
    );
    expect(axial(makePlan(hard(1.2), { family: "composite", axial: 1.1 }))).toBeCloseTo(1.1, 12);
    // Without hard limits nothing lies past the range unasked.
    expect(axial(makePlan(plainStudy(2), { family: "composite" }))).toBe(1);
    expect(axial(makePlan(plainStudy(2), { family: "composite", axial: "spherical" }))).toBeCloseTo(Math.SQRT2, 12);
    expect(refusal(() => makePlan(plainStudy(2), { family: "composite", axial: "far" }))).toContain(
      "orthogonal-blocks, or a number",
    );
  });

  it("asked for, lands on a settable step past the range", () => {
    const s = studyOf([cont("a", { low: 52, high: 68, step: 1 }), cont("b")]);
    const p = makePlan(s, { family: "composite", axial: "rotatable" });
    // 60 ± 8·√2 = 48.7 and 71.3, on whole degrees.
    expect(Math.min(...p.trials.map((t) => t.settings.a as number))).toBe(49);
    expect(Math.max(...p.trials.map((t) => t.settings.a as number))).toBe(71);
  });

  it("crosses categories and refuses what it cannot split", () => {
    const p = makePlan(studyOf([cont("a"), cont("b"), cat("c", "x", "y", "z")]), { family: "composite", centre: 6 });
    expect(p.trials).toHaveLength(3 * 8 + 6);
    for (const level of ["x", "y", "z"]) expect(p.trials.filter((t) => t.settings.c === level)).toHaveLength(10);
    expect(refusal(() => makePlan(plainStudy(2), { family: "composite", blocks: 3 }))).toContain("cannot be split");
    expect(refusal(() => makePlan(plainStudy(1), { family: "composite" }))).toContain(
      "two to eight numeric factors; this study has one",
    );
  });
});
