import { describe, expect, it } from "vitest";
import { modelWeights } from "../model/average";
import { fitModel } from "../model/fit";
import { linearSurface } from "../model/linear-surface";
import { surfaceOf } from "../questions/surface";
import type { Settings, Study, StudyInput, Term } from "../study/schema";
import { parseStudy } from "../study/validate";
import { cat, cont, corners, digits, plainStudy, studyOf, withTrials } from "../testing/studies";
import { steepestAscent } from "./ascent";
import { averagedPredictor, presentPredictor } from "./average";
import { importanceOf } from "./importance";
import { stationaryPoint } from "./stationary";

/** Corners, faces and centre of two or three factors: enough for any quadratic. */
const grid = (k: number): Settings[] =>
  Array.from({ length: 3 ** k }, (_, i) =>
    Object.fromEntries(Array.from({ length: k }, (__, j) => ["abc"[j], (Math.floor(i / 3 ** j) % 3) - 1])),
  );

/** A study whose model passes through a polynomial given in coded units. */
function through(
  k: number,
  f: (a: number, b: number, c: number) => number,
  terms: Term[],
  more: Partial<StudyInput> = {},
): Study {
  const points = grid(k);
  const study = withTrials(
    plainStudy(k, more),
    points,
    points.map((s) => f(s.a as number, (s.b ?? 0) as number, (s.c ?? 0) as number)),
  );
  return parseStudy({ ...study, models: [{ response: "y", terms }] });
}
const quadratic: Term[] = [["a"], ["b"], ["a", "b"], ["a", "a"], ["b", "b"]];
const read = (study: Study) => presentPredictor(study, "y");

describe("importance", () => {
  it("of a + b + ab spread evenly: variances 1/3, 1/3 and 1/9", () => {
    const study = through(2, (a, b) => 5 + a + b + a * b, [["a"], ["b"], ["a", "b"]]);
    const [a, b] = importanceOf(study, read(study)).rows;
    for (const f of [a, b]) {
      expect(digits(f.first, 3 / 7)).toBeGreaterThan(12);
      expect(digits(f.total, 4 / 7)).toBeGreaterThan(12);
    }
  });
  it("of 3a² + b: 9·(1/5 − 1/9) = 4/5 against 1/3", () => {
    const study = through(2, (a, b) => 3 * a * a + b, [["a"], ["b"], ["a", "a"]]);
    const [a, b] = importanceOf(study, read(study)).rows;
    expect(digits(a.first, 0.8 / (0.8 + 1 / 3))).toBeGreaterThan(12);
    expect(digits(b.total, 1 / 3 / (0.8 + 1 / 3))).toBeGreaterThan(12);
  });
  it("of a category and a discrete factor, each level weighing the same", () => {
    const study = studyOf([{ id: "n", kind: "discrete", values: [1, 2, 4] }, cat("lot", "p", "q", "r")]);
    const points = [1, 2, 4].flatMap((n) => ["p", "q", "r"].map((lot) => ({ n, lot })));
    const level: Record<string, number> = { p: 0, q: 1, r: 5 };
    const full = parseStudy({
      ...withTrials(
        study,
        points,
        points.map((s) => 2 * s.n + (level[s.lot] as number)),
      ),
      models: [{ response: "y", terms: [["n"], ["lot"]] }],
    });
    // Population variances: 2n over 2, 4, 8 is 56/9; 0, 1, 5 is 14/3.
    const [n, lot] = importanceOf(full, read(full)).rows;
    expect(digits(n.first, 56 / 9 / (56 / 9 + 14 / 3))).toBeGreaterThan(12);
    expect(digits(lot.total, 14 / 3 / (56 / 9 + 14 / 3))).toBeGreaterThan(12);
  });
  /** e^(a + b + …) over a box of k factors: the mean square of one factor over its squared mean is (1 + r). */
  const product = (k: number) => {
    const r = Math.sinh(2) / 2 / Math.sinh(1) ** 2 - 1;
    const all = (1 + r) ** k - 1;
    return { first: r / all, total: 1 - ((1 + r) ** (k - 1) - 1) / all };
  };
  const exponential = (k: number): Study => {
    const terms = plainStudy(k).factors.map((f) => [f.id]);
    const settings = [...corners(k), Object.fromEntries(terms.map(([id]) => [id, 0]))];
    const study = withTrials(
      plainStudy(k),
      settings,
      settings.map((s, i) =>
        Math.exp(Object.values(s).reduce((t: number, v) => t + (v as number), 0) + 1e-9 * (i % 3)),
      ),
    );
    return parseStudy({ ...study, models: [{ response: "y", terms, transform: "log", curvature: false }] });
  };
  it("on another scale, by quadrature: e^(a+b) and e^(a+b+c+d+e) have known shares", () => {
    for (const [k, to] of [
      [2, 8],
      [5, 8],
    ]) {
      const { rows, error } = importanceOf(exponential(k), read(exponential(k)));
      expect(error).toBeNull();
      for (const row of rows) {
        expect(row.first).toBeCloseTo(product(k).first, to);
        expect(row.total).toBeCloseTo(product(k).total, to);
      }
    }
  });
  it("of more than six factors by a sample, within the error that it states, first never above total", () => {
    const study = exponential(7);
    const { rows, error } = importanceOf(study, read(study));
    expect(error).toBeGreaterThan(0);
    expect(error).toBeLessThan(0.05);
    for (const row of rows) {
      expect(Math.abs(row.first - product(7).first)).toBeLessThan(4 * (error ?? 0));
      expect(Math.abs(row.total - product(7).total)).toBeLessThan(4 * (error ?? 0));
      expect(row.first).toBeLessThanOrEqual(row.total);
    }
  });
  it("is absent, and says why, where the way back has a pole", () => {
    const points = [-1, -0.5, 0.5, 1].flatMap((a) => [-1, 1].map((b) => ({ a, b })));
    const study = withTrials(
      plainStudy(2),
      points,
      points.map((s, i) => 1 / (s.a + 0.1 * s.b + 0.001 * (i % 2))),
    );
    const inverse = parseStudy({ ...study, models: [{ response: "y", terms: [["a"], ["b"]], transform: "inverse" }] });
    const { rows, absent } = importanceOf(inverse, read(inverse));
    expect(rows).toEqual([]);
    expect(absent).toEqual({ code: "no-importance", values: { scale: "inverse" } });
  });
});

describe("stationary point", () => {
  it("of the yield surface in Montgomery, Design and Analysis of Experiments, ch. 11: maximum 80.21 at (0.389, 0.306)", () => {
    const study = through(
      2,
      (a, b) => 79.94 + 0.995 * a + 0.515 * b - 1.376 * a * a - 1.001 * b * b + 0.25 * a * b,
      quadratic,
    );
    const { stationary } = stationaryPoint(study, read(study), { a: 0, b: 0 });
    expect(stationary?.nature).toBe("maximum");
    expect(stationary?.inside).toBe(true);
    expect(stationary?.settings.a).toBeCloseTo(0.389, 3);
    expect(stationary?.settings.b).toBeCloseTo(0.306, 3);
    expect(stationary?.value).toBeCloseTo(80.21, 2);
    expect(stationary?.eigenvalues[0]).toBeCloseTo(-1.4141, 3);
    expect(stationary?.eigenvalues[1]).toBeCloseTo(-0.9634, 3);
  });
  it("tells saddles, minima and ridges apart, and where there is none", () => {
    const nature = (f: (a: number, b: number) => number, terms = quadratic): string | undefined => {
      const study = through(2, f, terms);
      const answer = stationaryPoint(study, read(study), { a: 0, b: 0 });
      return answer.stationary ? answer.stationary.nature : answer.reason.code;
    };
    expect(nature((a, b) => a * a - b * b)).toBe("saddle");
    expect(nature((a, b) => a * a + b * b + 0.3 * a)).toBe("minimum");
    expect(nature((a, b) => -a * a - 0.04 * b * b)).toBe("ridge");
    expect(nature((a, b) => a + b, [["a"], ["b"]])).toBe("no-bend");
    expect(nature((a, b) => -a * a + b, [["a"], ["b"], ["a", "a"]])).toBe("rising-ridge");
    expect(nature((a, b) => a ** 2 * b + a, [["a"], ["b"], ["a", "a"], ["a", "a", "b"]])).toBe("third-order");
  });
  it("stands where the category says", () => {
    const study = studyOf([cont("a"), cat("lot", "p", "q")]);
    const points = [-1, 0, 1].flatMap((a) => ["p", "q"].map((lot) => ({ a, lot })));
    const full = parseStudy({
      ...withTrials(
        study,
        points,
        points.map((s) => -(s.a * s.a) + (s.lot === "p" ? 0.4 : -0.8) * s.a),
      ),
      models: [{ response: "y", terms: [["a"], ["lot"], ["a", "a"], ["a", "lot"]] }],
    });
    const at = (lot: string) => stationaryPoint(full, read(full), { a: 0, lot }).stationary?.settings.a;
    expect(at("p")).toBeCloseTo(0.2, 12);
    expect(at("q")).toBeCloseTo(-0.4, 12);
  });
});

describe("steepest ascent", () => {
  it("of ŷ = 40.44 + 0.775x₁ + 0.325x₂ goes 5 minutes and 2.1 degrees a step (Montgomery, ch. 11)", () => {
    const study = studyOf([
      { id: "time", kind: "continuous", low: 30, high: 40, hardHigh: 100 },
      { id: "temp", kind: "continuous", low: 150, high: 160, hardHigh: 200 },
    ]);
    const points = [30, 40].flatMap((time) => [150, 160].map((temp) => ({ time, temp })));
    const full = parseStudy({
      ...withTrials(
        study,
        points,
        points.map((s) => 40.44 + (0.775 * (s.time - 35)) / 5 + (0.325 * (s.temp - 155)) / 5),
      ),
      models: [{ response: "y", terms: [["time"], ["temp"]] }],
    });
    const { points: path, by } = steepestAscent(full, read(full), { time: 35, temp: 155 }, { step: 5 });
    expect(by).toEqual({ factor: "time", step: 5 });
    expect(path[1].settings.time).toBeCloseTo(40, 9);
    expect(path[1].settings.temp).toBeCloseTo(155 + (5 * 0.325) / 0.775, 9);
    expect(path[3].settings.time).toBeCloseTo(50, 9);
    expect(path[3].inside).toBe(false);
    expect(path[3].predicted).toBeCloseTo(40.44 + 3 * 0.775 + (3 * 0.325 ** 2) / 0.775, 9);
  });
  it("with curvature takes the best point at each distance, found by looking all round the circle", () => {
    const f = (a: number, b: number): number => 10 + a + 0.4 * b - 0.3 * a * a + 0.2 * b * b + 0.5 * a * b;
    const study = through(2, f, quadratic);
    const { points } = steepestAscent(study, read(study), { a: 0, b: 0 }, { step: 0.4 });
    for (const p of points.slice(1, 6)) {
      const r = Math.hypot(p.settings.a as number, p.settings.b as number);
      let best = Number.NEGATIVE_INFINITY;
      for (let i = 0; i < 100_000; i++)
        best = Math.max(best, f(r * Math.cos((2 * Math.PI * i) / 1e5), r * Math.sin((2 * Math.PI * i) / 1e5)));
      expect(p.predicted).toBeGreaterThan(best - 1e-7);
    }
  });
  it("falls for a response to be lowered, ends at hard limits and where a target is met", () => {
    const lower = through(1, (a) => 5 + 2 * a, [["a"]], {
      responses: [{ id: "y", goal: { aim: "lower", low: 0, high: 9 } }],
    });
    const down = steepestAscent(lower, read(lower), { a: 0 });
    expect(down.towards).toBe("lower");
    expect(down.points[1].predicted).toBeCloseTo(4, 9);
    const walled = through(1, (a) => 5 + 2 * a, [["a"]], {
      factors: [{ id: "a", kind: "continuous", low: -1, high: 1, hardHigh: 1.2, hardLow: -1 }],
    });
    const up = steepestAscent(walled, read(walled), { a: 0 });
    expect(up.points.at(-1)?.settings.a).toBe(1);
    expect(up.reason).toEqual({ code: "path-factor", values: { factor: "a" } });
    expect(up.beyond).toEqual([]);
    const aimed = through(1, (a) => 5 + 2 * a, [["a"]], {
      responses: [{ id: "y", goal: { aim: "hit", low: 0, target: 6, high: 9 } }],
    });
    expect(steepestAscent(aimed, read(aimed), { a: 0 }).reason.code).toBe("path-target");
    expect(() => steepestAscent(aimed, read(aimed), { a: 0 }, { step: -1 })).toThrow("above 0");
  });
});

describe("a path where nobody said how far factors can be set (definition 46)", () => {
  // y = 5 + 2a + b: steps of half a half-range in a, a quarter in b; the third step would set a to 1.5, b to 0.75.
  const plane = (more: object = {}): Study =>
    through(2, (a, b) => 5 + 2 * a + b, [["a"], ["b"]], {
      factors: ["a", "b"].map((id) => ({ id, kind: "continuous", low: -1, high: 1, ...(id === "a" ? more : {}) })),
    });
  const path = (study: Study) => steepestAscent(study, read(study), { a: 0, b: 0 });
  it("ends at low and high, and says how far it would go", () => {
    const { points, reason, beyond } = path(plane());
    expect(points.map((p) => p.settings.a)).toEqual([0, 0.5, 1]);
    expect(points.every((p) => p.inside)).toBe(true);
    expect(reason).toEqual({ code: "path-range", values: { factors: ["a"] } });
    // Four steps more: a to 3, and b past its range with them, to 1.5.
    expect(beyond).toEqual([
      { factor: "a", limit: "hardHigh", next: 1.5, to: 3 },
      { factor: "b", limit: "hardHigh", next: 1.25, to: 1.5 },
    ]);
  });
  it("goes on to a hard limit once that is stated, and then asks for the next", () => {
    const { points, beyond, reason } = path(plane({ hardHigh: 2.2 }));
    expect(points.map((p) => p.settings.a)).toEqual([0, 0.5, 1, 1.5, 2]);
    expect(reason).toEqual({ code: "path-factor", values: { factor: "a" } });
    expect(beyond).toEqual([]);
  });
});

describe("the average of models", () => {
  const points = corners(3);
  const y = [3.1, 5.2, 2.7, 6.9, 3.4, 5.8, 2.2, 7.7];
  const study = withTrials(plainStudy(3), points, y);
  const sets: Term[][] = [[["a"]], [["a"], ["b"], ["a", "b"]], [["a"], ["c"]]];
  const fits = sets.map((terms) => fitModel(study, "y", { terms }));
  it("weighs by exp(−Δ/2) of AICc", () => {
    const aicc = fits.map((f) => f.summary.aicc as number);
    const raw = aicc.map((v) => Math.exp(-(v - Math.min(...aicc)) / 2));
    const weights = modelWeights(fits, "akaike");
    weights.forEach((w, i) => {
      expect(w).toBeCloseTo(raw[i] / raw.reduce((t, v) => t + v, 0), 14);
    });
    expect(modelWeights(fits, "equal")).toEqual([1 / 3, 1 / 3, 1 / 3]);
  });
  it("predicts the weighted mean, its variance with the models' disagreement, and has averaged coefficients with zeros", () => {
    const weights = modelWeights(fits, "akaike");
    const mean = averagedPredictor(study, fits, "akaike", fits[1]);
    const at = { a: 0.3, b: -0.7, c: 0.9 };
    const said = fits.map((f) => linearSurface(study, f).predict(at));
    const z = said.reduce((t, p, i) => t + weights[i] * p.mean, 0);
    const variance = said.reduce(
      (t, p, i) => t + weights[i] * ((p.standardError as number) ** 2 + (p.mean - z) ** 2),
      0,
    );
    expect(mean.predict(at).mean).toBeCloseTo(z, 12);
    expect(mean.predict(at).standardError).toBeCloseTo(Math.sqrt(variance), 12);
    expect(mean.plane(at, "a", "b")(0.3, -0.7)).toBeCloseTo(z, 12);
    expect(mean.line(at, "a", [0.3])[0].mean).toBeCloseTo(z, 12);
    const b = mean.basis.find((c) => c.column.key === "b")?.value;
    expect(b).toBeCloseTo(
      weights[1] * (fits[1].parameters.find((p) => p.term[0] === "b" && p.term.length === 1)?.coefficient as number),
      12,
    );
  });
  it("stands for the response wherever the study says so", () => {
    const kept = parseStudy({ ...study, models: [{ response: "y", terms: [["a"]], rivals: sets, average: "equal" }] });
    const at = { a: 1, b: 1, c: 1 };
    const expected = fits.reduce((t, f) => t + linearSurface(study, f).value(at) / 3, 0);
    expect(presentPredictor(kept, "y").value(at)).toBeCloseTo(expected, 12);
    const alone = parseStudy({ ...study, models: [{ response: "y", terms: [["a"]], rivals: sets }] });
    expect(presentPredictor(alone, "y").value(at)).toBeCloseTo(linearSurface(study, fits[0]).value(at), 12);
  });
});

describe("the surface verb", () => {
  it("says what is missing, and when the path stays inside what is covered", () => {
    expect(() => surfaceOf(withTrials(plainStudy(1), [{ a: -1 }, { a: 1 }], [1, 2]), { response: "y" })).toThrow(
      "no model yet",
    );
    const study = through(2, (a, b) => a + b, [["a"], ["b"]]);
    expect(
      surfaceOf(study, { response: "y" }).readings.some((r) => r.text.includes("leaves what was run at step 3")),
    ).toBe(true);
    expect(
      surfaceOf(study, { response: "y", at: { a: 1, b: 1 } }).readings.some((r) =>
        r.text.includes("within what was run"),
      ),
    ).toBe(false);
  });
});
