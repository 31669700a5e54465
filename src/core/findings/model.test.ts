import { describe, expect, it } from "vitest";
import { fitModel } from "../model/fit";
import { followsTooClosely } from "../model/overfit";
import { seededRandom } from "../numerics/random";
import type { Settings, Study, Term } from "../study/schema";
import { parseStudy } from "../study/validate";
import { fires, textOf } from "../testing/fires";
import { drawn, shareBounds } from "../testing/simulation";
import { corners, plainStudy, withTrials } from "../testing/studies";
import { messageText } from "../words/answers";
import { modelReadings } from "./model";
import type { Reading } from "./reading";

// Figures in the sentences were worked out a second time by least squares in numpy and the formulas of each statistic,
// or stand beside the case; they share nothing with what is tested here.

describe("Model", () => {
  const jitter = [0.1, -0.2, 0.15, -0.05, -0.1, 0.2, -0.15, 0.05, 0.12, -0.12, 0.07, -0.07, 0.02, -0.02, 0.18, -0.18];
  const full = (effect: (s: Settings) => number, k = 4, more: object = {}): Study =>
    withTrials(
      plainStudy(k, more),
      corners(k),
      corners(k).map((s, i) => 10 + effect(s) + jitter[i % 16]),
    );
  const read = (study: Study, terms: Term[]): Reading[] => modelReadings(study, fitModel(study, "y", { terms }));
  const mains: Term[] = [["a"], ["b"], ["c"], ["d"]];
  const A = (s: Settings): number => s.a as number;
  const B = (s: Settings): number => s.b as number;
  fires(
    "drivers",
    "a drives y: 5.90 from low to high.",
    () =>
      read(
        full((s) => 3 * A(s)),
        mains,
      ),
    () =>
      read(
        full(() => 0),
        mains,
      ),
  );
  fires(
    "nothing-active",
    "No term of y stands clear of the noise (s 0.14). It may be steady over these ranges, or the effects are smaller than these trials can see.",
    () =>
      read(
        full(() => 0),
        mains,
      ),
    () =>
      read(
        full((s) => 3 * A(s)),
        mains,
      ),
  );
  fires(
    "together",
    "a × b act together: from low to high a changes it by −2.07 at b -1 but by 5.88 at 1. Read the two as a pair.",
    () =>
      read(
        full((s) => A(s) + 2 * A(s) * B(s)),
        [...mains, ["a", "b"]],
      ),
    () =>
      read(
        full((s) => A(s)),
        [...mains, ["a", "b"]],
      ),
  );
  fires(
    "idle",
    "c and d are quiet for y: effects of up to 0.15 could still hide.",
    () =>
      read(
        full((s) => 3 * A(s) + B(s)),
        mains,
      ),
    () =>
      read(
        full((s) => 3 * A(s) + B(s) + 2 * (s.c as number) + 2 * (s.d as number)),
        mains,
      ),
  );
  const fraction = (d: (s: Settings) => number): Study => {
    const points = corners(3).map((s) => ({ ...s, d: d(s) }));
    const study = withTrials(
      plainStudy(4),
      [...points, ...points],
      [...points, ...points].map((s, i) => 10 + 2 * A(s) + 2 * B(s) + 3 * A(s) * B(s) + jitter[i % 16]),
    );
    return { ...study, trials: study.trials.map((t) => ({ ...t, kind: "factorial" })) };
  };
  fires(
    "alias",
    "a × b cannot be told from c × d in these trials. a × b is the likelier: both its factors are active on their own. A fold-over of a alone, or half a fold-over would part them.",
    () =>
      read(
        fraction((s) => A(s) * B(s) * (s.c as number)),
        [...mains, ["a", "b"]],
      ),
    () =>
      read(
        full((s) => 2 * A(s) + 2 * B(s) + 3 * A(s) * B(s)),
        [...mains, ["a", "b"]],
      ),
  );
  it("weighs a chain by heredity: both parents active is the likelier", () =>
    expect(
      textOf(
        read(
          fraction((s) => A(s) * B(s) * (s.c as number)),
          [...mains, ["a", "b"]],
        ),
        "alias",
      ),
    ).toContain("a × b is the likelier: both its factors are active"));
  fires(
    "no-residual-df",
    "4 coefficients on 4 results: nothing is left to judge noise by. Take quiet terms out, or read the half-normal plot.",
    () => read(withTrials(plainStudy(2), corners(2), [1, 2, 3, 7]), [["a"], ["b"], ["a", "b"]]),
    () => read(withTrials(plainStudy(2), corners(2), [1, 2, 3, 7]), [["a"], ["b"]]),
  );
  fires(
    "dropped",
    "a × b cannot be estimated beside the rest: a × b = c.",
    () =>
      read(
        withTrials(
          plainStudy(3),
          corners(2).map((s) => ({ ...s, c: (s.a as number) * (s.b as number) })),
          [1, 2, 3, 7],
        ),
        [["a"], ["b"], ["c"], ["a", "b"]],
      ),
    () => read(withTrials(plainStudy(2), corners(2), [1, 2, 3, 7]), [["a"], ["b"]]),
  );
  const centred = (mid: number): Study =>
    withTrials(
      plainStudy(2),
      [...corners(2), ...corners(2), ...[0, 0, 0].map(() => ({ a: 0, b: 0 }))],
      [1, 2, 3, 4, 1.1, 2.1, 2.9, 3.9, mid, mid + 0.1, mid - 0.1],
    );
  fires(
    "curvature",
    "The centre of y lies 1.500 above the plane of the corners (p under 0.001): at least one factor bends, and these trials cannot say which. Axial points would; until then predictions between the corners may be off by up to that.",
    () => read(centred(4), [["a"], ["b"]]),
    () => read(centred(2.5), [["a"], ["b"]]),
  );
  const twice = (bump: number): Study =>
    withTrials(
      plainStudy(2),
      [...corners(2), ...corners(2), ...corners(2)],
      [1, 2, 3, 4 + bump, 1.1, 2.1, 2.9, 3.9 + bump, 0.95, 2.05, 3.05, 4.1 + bump],
    );
  fires(
    "lack-of-fit",
    "The model misses more than repeats explain: lack of fit F 120 on 1 and 8 df (p under 0.001). A term is missing or a scale would help.",
    () => read(twice(1), [["a"], ["b"]]),
    () => read(twice(0), [["a"], ["b"]]),
  );
  // Two of sixteen trials alone have b high, and do not agree: what they say of b is theirs, and no other trial's.
  const lone = (apart: number): Study =>
    withTrials(
      plainStudy(2),
      Array.from({ length: 16 }, (_, i) => ({ a: i % 2 ? 1 : -1, b: i === 5 || i === 8 ? 1 : -1 })),
      Array.from(
        { length: 16 },
        (_, i) => 10 + (i % 2 ? 2 : -2) + jitter[i] + (i === 5 ? apart : i === 8 ? -apart : 0),
      ),
    );
  fires(
    "overfit",
    /^R² is 0\.\d\d but predicted R² only −?0\.\d\d: the model follows these trials better than it will follow the next\. Reduce it\.$/,
    () => read(lone(4), [["a"], ["b"]]),
    // All that such trials can tell, near saturation: a low predicted R² is what any such model has.
    () =>
      read(
        full((s) => A(s) * 0.1),
        [...mains, ["a", "b"], ["a", "c"], ["a", "d"], ["b", "c"], ["b", "d"], ["c", "d"]],
      ),
  );
  it("a model that lacks a term is told to take it in, and not to give others up beside it", () => {
    const lacking = full((s) => 3 * A(s) + 2 * A(s) * B(s));
    const codes = (terms: Term[]) => read(lacking, terms).map((r) => r.code);
    expect(codes(mains)).toContain("left-out");
    expect(codes(mains)).not.toContain("overfit");
  });
  it("a low predicted R² is said of one in twenty healthy studies near saturation, not of most", () => {
    const random = seededRandom(33);
    const pairs: Term[] = [
      ["a", "b"],
      ["a", "c"],
      ["a", "d"],
      ["b", "c"],
      ["b", "d"],
      ["c", "d"],
    ];
    const studies = drawn(400, 100);
    let far = 0;
    let said = 0;
    for (let i = 0; i < studies; i++) {
      const study = withTrials(
        plainStudy(4),
        corners(4),
        corners(4).map((s) => 10 + A(s) + B(s) + A(s) * B(s) + 0.8 * random.normal()),
      );
      const fit = fitModel(study, "y", { terms: [...mains, ...pairs] });
      if ((fit.summary.r2 ?? 0) - (fit.summary.r2Predicted ?? 0) > 0.2) far++;
      if (followsTooClosely(study, fit)) said++;
    }
    expect(far / studies).toBeGreaterThan(0.5);
    expect(said / studies).toBeLessThan(shareBounds(0.05, studies)[1]);
  });
  const worthFinding = (study: Study, smallest: number | undefined): Study => ({
    ...study,
    responses: study.responses.map((r) => (smallest === undefined ? r : { ...r, smallest })),
  });
  const waves = (shift: number): Study =>
    withTrials(
      plainStudy(2),
      [...corners(2), ...corners(2)],
      [1, 2, 3, 4, 1.05 + shift, 2.1 + shift, 2.9 + shift, 3.95 + shift],
      {
        wave: (i) => (i < 4 ? "w1" : "w2"),
      },
    );
  fires(
    "wave-shift",
    "Wave 2 lies 1.000 above Wave 1 (0.890 to 1.110). It is in the model as a block.",
    () => read(waves(1), [["a"], ["b"]]),
    () => read(waves(0.02), [["a"], ["b"]]),
  );
  fires(
    "left-out",
    "Something left out of the model of y is large: take in a × b (4.0, p under 0.001).",
    () =>
      read(
        full((s) => 3 * A(s) + 2 * A(s) * B(s)),
        mains,
      ),
    () =>
      read(
        full((s) => 3 * A(s) + 2 * A(s) * B(s)),
        [...mains, ["a", "b"]],
      ),
  );
  it("no term is called quiet, nor the process steady, while something left out is large", () => {
    const ids = read(
      full((s) => 2 * A(s) * B(s)),
      mains,
    ).map((r) => r.id);
    expect(ids).toContain("left-out");
    expect(ids).not.toContain("nothing-active");
  });
  fires(
    "likely",
    "b likely acts on y: 0.18 from low to high (p 0.026). Of 14 terms looked at, one in twenty passes by chance.",
    () =>
      read(
        full((s) => 3 * A(s) + 0.09 * B(s)),
        mains,
      ),
    () =>
      read(
        full((s) => 3 * A(s) + 0.02 * B(s)),
        mains,
      ),
  );
  fires(
    "waves-alike",
    /^Waves do not clearly differ \(p 0\.[1-9]\d\): Wave [12] less Wave [12] is 0\.0\d+ \(−0\.\d+ to 0\.\d+\)\. That is small beside the smallest change worth finding: they may be taken out\.$/,
    () => read(worthFinding(waves(0.02), 1), [["a"], ["b"]]),
    () => read(waves(1), [["a"], ["b"]]),
  );
  it("waves that do not clearly differ may be taken out only where all they may differ by is small", () => {
    const said = (smallest: number | undefined): string =>
      read(worthFinding(waves(0.02), smallest), [["a"], ["b"]])
        .map((r) => messageText("readings", r))
        .find((t) => t.startsWith("Waves do not")) ?? "";
    expect(said(undefined)).toMatch(/\)\.$/);
    expect(said(0.1)).not.toContain("taken out");
    expect(said(1)).toContain("taken out");
  });
  const centreApart = (mid: number): Study =>
    withTrials(
      plainStudy(2),
      [...corners(2), ...corners(2), ...[0, 0, 0].map(() => ({ a: 0, b: 0 }))],
      [1, 2, 3, 4, 1.1, 2.1, 2.9, 3.9, mid, mid + 0.1, mid - 0.1],
      { wave: (i) => (i < 8 ? "w1" : "w2") },
    );
  fires(
    "bend-or-shift",
    "Bend or shift: Wave 2 lies 1.500 above Wave 1 (p under 0.001), and with the centre in a wave of its own these trials cannot say which. Axial points with some corners run again would.",
    () => read(centreApart(4), [["a"], ["b"]]),
    () => read(centreApart(2.5), [["a"], ["b"]]),
  );
  const spread = (same: boolean): Reading[] => {
    const study = parseStudy({
      ...plainStudy(2, {
        responses: [
          { id: "y", decimals: 1 },
          { id: "s", spread: { of: "y", from: "repeats" } },
        ],
      }),
      waves: [{ id: "w" }],
      trials: [...corners(2), ...corners(2)].map((settings, i) => ({
        id: `t${i}`,
        wave: "w",
        state: "done" as const,
        settings,
        results: { y: i === 3 && same ? [5, 5] : [5, 5.2 + 0.1 * i] },
      })),
    });
    return modelReadings(study, fitModel(study, "s", { terms: [["a"], ["b"]] }));
  };
  fires(
    "floored",
    "One spread was 0 and stands at the smallest step the results are written in: the true spread there may be less.",
    () => spread(true),
    () => spread(false),
  );
  it("a category's size is from its lowest level to its highest, and its slopes are of the levels farthest apart", () => {
    const levels = ["zinc", "tin", "iron"];
    const points = [...levels, ...levels].flatMap((k) => [-1, 1].map((a) => ({ a, k })));
    const slope: Record<string, number> = { zinc: 4, tin: 7, iron: 3.5 };
    const level: Record<string, number> = { zinc: 0, tin: 1, iron: -2 };
    const study = withTrials(
      parseStudy({
        ...plainStudy(1),
        factors: [
          { id: "a", kind: "continuous", low: -1, high: 1 },
          { id: "k", kind: "categorical", levels },
        ],
      }),
      points,
      points.map((s, i) => 10 + level[s.k] + slope[s.k] * s.a + (i < 6 ? 0.1 : -0.1)),
    );
    const texts = read(study, [["a"], ["k"], ["a", "k"]]).map((r) => messageText("readings", r));
    // Levels differ by 1 − (−2); slopes are twice 7 and twice 3.5.
    expect(texts.find((t) => t.includes("drive"))).toMatch(/k 3\.00 from iron to tin/);
    expect(texts.find((t) => t.includes("act together"))).toMatch(/changes it by 14\.00 at k tin but by 7\.00 at iron/);
  });
  it("of two that act together beside a log factor: where it stands is its middle on its own scale, and is named", () => {
    // y = 10 + a + 2ab + 3abc in coded units, c from 1 to 100 on a log scale: its middle is 10, not 50.5. With the
    // three-factor term the changes at b = ∓1 are 2(1 ∓ 2 ∓ 3·c), so that c = 0 gives −2 and 6.
    const study = parseStudy({
      ...plainStudy(2),
      factors: [
        { id: "a", kind: "continuous", low: 0, high: 10 },
        { id: "b", kind: "continuous", low: -1, high: 1, unit: "bar" },
        { id: "c", kind: "continuous", low: 1, high: 100, scale: "log", unit: "ppm" },
        { id: "k", kind: "categorical", levels: ["tin", "iron"] },
      ],
    });
    const at = corners(4).map((s) => ({
      a: s.a === 1 ? 10 : 0,
      b: s.b as number,
      c: s.c === 1 ? 100 : 1,
      k: s.d === 1 ? "iron" : "tin",
    }));
    const asked = [...mains.slice(0, 3), ["k"], ["a", "b"], ["a", "c"], ["b", "c"], ["a", "k"], ["b", "k"]];
    const told = (three: number, fourth: number, terms: Term[]): string =>
      read(
        withTrials(
          study,
          at,
          corners(4).map((s, i) => {
            const [a, b, c, d] = ["a", "b", "c", "d"].map((id) => s[id] as number);
            return 10 + a + 2 * a * b + three * a * b * c + fourth * a * b * d + d + jitter[i] / 10;
          }),
        ),
        [...asked, ...terms],
      )
        .map((r) => messageText("readings", r))
        .find((t) => t.startsWith("a × b act together")) ?? "";
    expect(told(3, 0, [["a", "b", "c"]])).toMatch(
      /changes it by (−2\.00|−1\.99)\d* at b -1 bar but by (6\.00|5\.99)\d* at 1 bar, with c at 10 ppm and k at tin\. Read/,
    );
    // Of a category that neither change depends on, all levels.
    const alone = [...mains.slice(0, 3), ["k"], ["a", "b"]];
    const text = read(
      withTrials(
        study,
        at,
        at.map((s, i) => 10 + 2 * (s.a / 5 - 1) * s.b + jitter[i] / 10),
      ),
      alone,
    )
      .map((r) => messageText("readings", r))
      .find((t) => t.startsWith("a × b act together"));
    expect(text).toMatch(/at 1 bar, over all levels of k\. Read the two as a pair\.$/);
    expect(told(0, 1, [["a", "b", "k"]])).toMatch(/k at tin/);
  });
  const odd = (extra: number): Study =>
    withTrials(
      plainStudy(4),
      corners(4),
      corners(4).map((s, i) => 10 + 3 * A(s) + jitter[i] + (i === 5 ? extra : 0)),
    );
  fires(
    "influential",
    "Trial 6 rules part of the fit (Cook's distance 0.98, 29 standard errors off). Without it s goes from 0.83 to 0.11 and the coefficient of a from 3.14 to 2.93.",
    () => read(odd(3), [["a"]]),
    () => read(odd(0.1), [["a"]]),
  );
  fires(
    "orphans",
    "a × b stands in the model without its main effects; such a model changes with the coding.",
    () =>
      read(
        full((s) => A(s)),
        [["a"], ["a", "b"]],
      ),
    () =>
      read(
        full((s) => A(s)),
        [["a"], ["b"], ["a", "b"]],
      ),
  );
  const bounded = (min: number): Study => full((s) => 4 * A(s), 4, { responses: [{ id: "y", bounds: { min } }] });
  fires(
    "beyond-bounds",
    /^In about 1\d % of the region the model gives y values that cannot be \(below 7\)\./,
    () => read(bounded(7), [["a"]]),
    () => read(bounded(5), [["a"]]),
  );
});

describe("Checks among the readings of a model", () => {
  const line = Array.from({ length: 24 }, (_, i) => ({ a: i % 2 ? 1 : -1, b: (i >> 1) % 2 ? 1 : -1 }));
  const even = [
    0.1, -0.12, 0.08, -0.1, 0.05, -0.07, 0.11, -0.05, 0.02, -0.03, 0.06, -0.08, 0.09, -0.11, 0.04, -0.02, 0.07, -0.06,
    0.03, -0.09, 0.12, -0.04, 0.01, -0.01,
  ];
  const of = (noise: (i: number) => number): Reading[] => {
    const study = withTrials(
      plainStudy(2),
      line,
      line.map((s, i) => 5 + 2 * s.a + s.b + noise(i)),
    );
    return modelReadings(study, fitModel(study, "y", { terms: [["a"], ["b"]] }));
  };
  const shuffled = (i: number): number => even[(i * 7) % 24];
  fires(
    "check-spread",
    /^Is the spread the same everywhere\? No: it changes with the predicted value \(p (under 0.001|0.00\d); 0.0\d among all checks\)\.$/,
    () => of((i) => shuffled(i) * (line[i].a > 0 ? 12 : 1)),
    () => of(shuffled),
  );
  // Errors that add up to nothing in every corner, so that none of them looks like an effect.
  const balanced = (i: number): number => 0.1 * [1, -1, 0.7, -0.7, 0.4, -0.4][i >> 2];
  fires(
    "check-spread-factor",
    /^Does the spread depend on a factor\? Yes: with b high errors are 8 times as wide as with b low \(p under 0.001; 0.0\d among all checks\)\.$/,
    () => of((i) => balanced(i) * (line[i].b > 0 ? 8 : 1)),
    () => of(balanced),
  );
  // Errors that grow with the level, over a factor of more than three: a logarithm holds them.
  const grown = (spanned: number): Reading[] => {
    const study = withTrials(
      plainStudy(2),
      line,
      line.map((s, i) => Math.exp((Math.log(spanned) / 2) * s.a + 0.15 * s.b + 0.5 * shuffled(i))),
    );
    return modelReadings(study, fitModel(study, "y", { terms: [["a"], ["b"]] }));
  };
  fires(
    "check-scale",
    /^Would another scale fit better\? Yes: powers from .+ fit best; the log scale is one\.$/,
    () => grown(12),
    () => grown(1.5),
  );
  it("names the scale that would help", () => expect(textOf(grown(12), "check-scale")).toContain("log scale"));
  fires(
    "check-order",
    /^Did anything drift while the trials ran\? Yes: the error moves by 0.05 a trial \(p under 0.001; 0.00 among all checks\)\.$/,
    () => of((i) => (i - 12) * 0.05 + shuffled(i) * 0.2),
    () => of(shuffled),
  );
});

describe("sizes say which scale they are on", () => {
  it("the response's unit as it is measured, the scale where it is fitted on another", () => {
    const settings = corners(2).flatMap((c) => [c, c]);
    const y = settings.map((s, i) => Math.exp(2 + 0.8 * (s.a as number) + (i % 2 ? 0.02 : -0.02)));
    const study = withTrials(plainStudy(2, { responses: [{ id: "y", name: "Yield", unit: "kg" }] }), settings, y);
    const text = (transform: "none" | "log"): string =>
      textOf(modelReadings(study, fitModel(study, "y", { terms: [["a"], ["b"]], transform })), "drivers");
    expect(text("none")).toMatch(/ kg from low to high/);
    // ln y changes by 1.6 from low to high.
    expect(text("log")).toMatch(/1\.60* on the log scale from low to high/);
  });
});
