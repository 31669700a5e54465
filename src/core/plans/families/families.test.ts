import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { aliasMatrix } from "../../appraisal/aliasing";
import { appraisePoints } from "../../appraisal/appraise";
import { pointModel } from "../../appraisal/terms-info";
import { varianceReader } from "../../appraisal/variance";
import { code, isNumeric, snap } from "../../study/coding";
import { allowed, withinRanges } from "../../study/region";
import type { Settings, Study, StudyInput } from "../../study/schema";
import { parseStudy } from "../../study/validate";
import { possibleTerms, termSet } from "../../terms/candidates";
import { encoder } from "../../terms/model-matrix";
import { plainStudy, refusal } from "../../testing/studies";
import { ARRAY_SIZES, arraysOf } from "../arrays";
import { conferenceMatrix, hadamardColumns, SCREEN_SIZES } from "../hadamard";
import { makePlan, planSteps } from "../make-plan";
import type { Plan, PlanOptions } from "../plan";

const plan = (study: Study, options: PlanOptions): Plan => makePlan(study, options);
const points = (p: Plan): { settings: Settings[]; waves: string[] } => ({
  settings: p.trials.map((t) => t.settings),
  waves: p.trials.map((t) => t.wave),
});
const study = (factors: StudyInput["factors"], more: Partial<StudyInput> = {}): Study =>
  parseStudy({ format: "trialmoor-study", version: 1, title: "t", factors, responses: [{ id: "y" }], ...more });
const cont = (id: string, more: object = {}) => ({ id, kind: "continuous" as const, low: -1, high: 1, ...more });
const cat = (id: string, ...levels: string[]) => ({ id, kind: "categorical" as const, levels });
const sum = (values: readonly number[]): number => values.reduce((t, v) => t + v, 0);

/** Every pair of columns shows every pair of levels equally often. */
function strengthTwo(columns: readonly (readonly (number | string)[])[]): boolean {
  return columns.every((a, i) =>
    columns.slice(i + 1).every((b) => {
      const counts = new Map<string, number>();
      a.forEach((v, r) => {
        const key = `${v}|${b[r]}`;
        counts.set(key, (counts.get(key) ?? 0) + 1);
      });
      const pairs = new Set(a).size * new Set(b).size;
      return counts.size === pairs && new Set(counts.values()).size === 1;
    }),
  );
}

describe("Plackett–Burman", () => {
  // First rows as printed by Plackett & Burman (1946), table of cyclic designs.
  it.each([
    [12, "++-+++---+-"],
    [20, "++--++++-+-+----++-"],
    [24, "+++++-+-++--++--+-+----"],
  ])("%i trials begin with the printed row", (n, row) => {
    expect(
      hadamardColumns(n)[0]
        .map((v) => (v > 0 ? "+" : "-"))
        .join(""),
    ).toBe(row);
  });

  it.each([...SCREEN_SIZES])("%i trials hold orthogonal balanced columns, one fewer than trials", (n) => {
    const h = hadamardColumns(n);
    expect([h.length, h[0].length]).toEqual([n, n - 1]);
    expect(h.flat().every((v) => v === 1 || v === -1)).toBe(true);
    for (let a = 0; a < n - 1; a++) {
      expect(sum(h.map((r) => r[a]))).toBe(0);
      for (let b = a + 1; b < n - 1; b++) expect(sum(h.map((r) => r[a] * r[b]))).toBe(0);
    }
  });

  it("shares a third of each two-factor interaction with the main effects outside it in 12 trials (Lin & Draper 1992)", () => {
    const s = plainStudy(11);
    const model = pointModel(s, points(plan(s, { family: "plackett-burman", trials: 12 })), termSet(s, "main"));
    const { values, columns } = aliasMatrix(
      s,
      points(plan(s, { family: "plackett-burman", trials: 12 })),
      model,
      possibleTerms(s, termSet(s, "main")),
    );
    columns.forEach((term, c) => {
      model.kept.forEach((k, r) => {
        const own = k.term.length === 0 || term.includes(k.term[0]);
        expect(Math.abs(values[r][c])).toBeCloseTo(own ? 0 : 1 / 3, 12);
      });
    });
  });

  it("folded over keeps main effects clear of every two-factor interaction", () => {
    const s = plainStudy(7);
    const p = plan(s, { family: "plackett-burman", trials: 24, foldOver: true });
    expect(p.trials).toHaveLength(24);
    const table = aliasMatrix(s, points(p), pointModel(s, points(p), termSet(s, "main")), possibleTerms(s, termSet(s, "main")));
    expect(sum(table.values.slice(1).flat().map(Math.abs))).toBeLessThan(1e-12);
  });

  it("says what it cannot serve", () => {
    expect(refusal(() => plan(plainStudy(11), { family: "plackett-burman", trials: 13 }))).toContain("12, 16, 20");
    expect(refusal(() => plan(study([cont("a"), cont("b"), cat("c", "x", "y", "z")]), { family: "plackett-burman", trials: 12 }))).toContain(
      "c has 3",
    );
    expect(refusal(() => plan(plainStudy(5), { family: "plackett-burman", trials: 12, blocks: 2 }))).toContain("as many replicates as blocks");
  });
});

describe("Box–Behnken", () => {
  it("of three factors is the printed set of edge midpoints (Box & Behnken 1960)", () => {
    const p = plan(plainStudy(3), { family: "box-behnken", centre: 3 });
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
    const p = plan(plainStudy(k), { family: "box-behnken" });
    expect(p.trials).toHaveLength(n);
    const ids = plainStudy(k).factors.map((f) => f.id);
    const moment = (f: (s: Settings) => number): number => sum(p.trials.map((t) => f(t.settings)));
    const squares = ids.map((id) => moment((s) => (s[id] as number) ** 2));
    expect(new Set(squares).size).toBe(1);
    for (const a of ids) for (const b of ids) if (a !== b) expect(moment((s) => (s[a] as number) * (s[b] as number))).toBe(0);
    for (const t of p.trials) expect(ids.some((id) => t.settings[id] === 0)).toBe(true);
  });

  it.each([
    [4, 3],
    [5, 2],
    [6, 2],
    [7, 2],
  ])("of %i factors splits into %i blocks orthogonal to every quadratic term", (k, blocks) => {
    const s = plainStudy(k);
    const p = plan(s, { family: "box-behnken", blocks, centre: 2 * blocks });
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
    expect(refusal(() => plan(plainStudy(3), { family: "box-behnken", blocks: 2 }))).toContain("no orthogonal blocks");
    expect(refusal(() => plan(study([cont("a"), cont("b"), cat("c", "x", "y")]), { family: "box-behnken" }))).toBe(
      "Box–Behnken needs three to seven numeric factors; this study has two numeric factors and a category.",
    );
    expect(refusal(() => plan(plainStudy(4), { family: "box-behnken", blocks: 2 }))).toContain("splits into three orthogonal blocks");
  });
});

describe("Central composite", () => {
  const axial = (p: Plan): number => Math.max(...p.trials.filter((t) => t.kind === "axial").map((t) => t.coded.a as number));

  it.each([2, 3, 4, 5, 6, 7, 8])("of %i factors, rotatable, predicts equally well at equal distance (Box & Hunter 1957)", (k) => {
    const s = plainStudy(k);
    const p = plan(s, { family: "composite", axial: "rotatable", centre: 4 });
    const cube = p.trials.filter((t) => t.kind === "factorial").length;
    expect(axial(p)).toBeCloseTo(cube ** 0.25, 14);
    const terms = termSet(s, "quadratic");
    const model = pointModel(s, points(p), terms);
    expect(model.rank.dropped).toEqual([]);
    const d = varianceReader(encoder(s, terms), model.kept, model.inverse);
    const at = (direction: number[]): number => {
      const norm = Math.hypot(...direction);
      return d(Object.fromEntries(s.factors.map((f, j) => [f.id, (0.8 * direction[j]) / norm])));
    };
    const first = at(Array.from({ length: k }, (_, j) => (j === 0 ? 1 : 0)));
    expect(at(new Array(k).fill(1)) / first).toBeCloseTo(1, 9);
    expect(at(Array.from({ length: k }, (_, j) => j - 0.3)) / first).toBeCloseTo(1, 9);
  });

  // Axial distances and blocks as tabulated by Box & Hunter (1957) for these centre points.
  it.each([
    [2, 2, 6, Math.SQRT2],
    [3, 3, 6, 1.6329931618554521],
    [4, 3, 6, 2],
  ])("of %i factors in %i blocks with %i centre points has orthogonal blocks at %f", (k, blocks, centre, alpha) => {
    const s = plainStudy(k);
    const p = plan(s, { family: "composite", axial: "orthogonal-blocks", blocks, centre });
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
    const hard = (h: number): Study => study([cont("a", { hardLow: -h, hardHigh: h }), cont("b", { hardLow: -3, hardHigh: 3 })]);
    expect(axial(plan(hard(1), { family: "composite" }))).toBe(1);
    expect(axial(plan(hard(1.2), { family: "composite" }))).toBeCloseTo(1.2, 12);
    expect(axial(plan(hard(2), { family: "composite" }))).toBeCloseTo(Math.SQRT2, 12);
    expect(refusal(() => plan(hard(1.2), { family: "composite", axial: "rotatable" }))).toContain("a can be run at (1.200)");
    expect(axial(plan(hard(1.2), { family: "composite", axial: 1.1 }))).toBeCloseTo(1.1, 12);
    // Without hard limits nothing lies past the range unasked.
    expect(axial(plan(plainStudy(2), { family: "composite" }))).toBe(1);
    expect(axial(plan(plainStudy(2), { family: "composite", axial: "spherical" }))).toBeCloseTo(Math.SQRT2, 12);
    expect(refusal(() => plan(plainStudy(2), { family: "composite", axial: "far" }))).toContain("orthogonal-blocks, or a number");
  });

  it("asked for, lands on a settable step past the range", () => {
    const s = study([cont("a", { low: 52, high: 68, step: 1 }), cont("b")]);
    const p = plan(s, { family: "composite", axial: "rotatable" });
    // 60 ± 8·√2 = 48.7 and 71.3, on whole degrees.
    expect(Math.min(...p.trials.map((t) => t.settings.a as number))).toBe(49);
    expect(Math.max(...p.trials.map((t) => t.settings.a as number))).toBe(71);
  });

  it("crosses categories and refuses what it cannot split", () => {
    const p = plan(study([cont("a"), cont("b"), cat("c", "x", "y", "z")]), { family: "composite", centre: 6 });
    expect(p.trials).toHaveLength(3 * 8 + 6);
    for (const level of ["x", "y", "z"]) expect(p.trials.filter((t) => t.settings.c === level)).toHaveLength(10);
    expect(refusal(() => plan(plainStudy(2), { family: "composite", blocks: 3 }))).toContain("cannot be split");
    expect(refusal(() => plan(plainStudy(1), { family: "composite" }))).toContain("two to eight numeric factors; this study has one");
  });
});

describe("Definitive screening", () => {
  it.each([4, 6, 8, 10, 12, 14, 16, 18])("conference matrix of order %i: zero diagonal, signs elsewhere, C′C = (m − 1)I", (m) => {
    const c = conferenceMatrix(m);
    for (let i = 0; i < m; i++)
      for (let j = 0; j < m; j++) {
        expect(Math.abs(c[i][j])).toBe(i === j ? 0 : 1);
        expect(sum(c.map((r) => r[i] * r[j]))).toBe(i === j ? m - 1 : 0);
      }
  });

  // Run sizes of Jones & Nachtsheim (2011): 2m + 1 with m the even number at or above k.
  it.each([
    [4, 9],
    [5, 13],
    [6, 13],
    [7, 17],
    [8, 17],
    [10, 21],
    [11, 25],
    [15, 33],
    [16, 33],
  ])("of %i factors takes %i trials with main effects clear of interactions and squares", (k, n) => {
    const s = plainStudy(k);
    const p = plan(s, { family: "definitive" });
    expect(p.trials).toHaveLength(n);
    const rows = p.trials.map((t) => s.factors.map((f) => t.settings[f.id] as number));
    for (let a = 0; a < k; a++) for (let b = 0; b < k; b++) for (let c = b; c < k; c++) expect(sum(rows.map((r) => r[a] * r[b] * r[c]))).toBe(0);
  });

  it("augmented for a category has 2m + 2 trials and the best of all signs for its free entries (Jones & Nachtsheim 2013)", () => {
    const s = study([cont("a"), cont("b"), cont("c"), cat("d", "x", "y")]);
    const p = plan(s, { family: "definitive" });
    expect(p.trials).toHaveLength(10);
    const sign = (t: Plan["trials"][number]): number[] => [
      1,
      ...["a", "b", "c"].map((id) => t.settings[id] as number),
      t.settings.d === "y" ? 1 : -1,
    ];
    const determinant = (m: number[][]): number =>
      m.length === 1
        ? m[0][0]
        : m[0].reduce((t, v, j) => t + (j % 2 ? -1 : 1) * v * determinant(m.slice(1).map((r) => r.filter((_, c) => c !== j))), 0);
    const information = (rows: number[][]): number => determinant(rows[0].map((_, a) => rows[0].map((__, b) => sum(rows.map((r) => r[a] * r[b])))));
    // All 2⁴ signs of the four free entries: two where the conference matrix has its zero, two at the centre.
    const c = conferenceMatrix(4);
    const base = [...c.flatMap((r) => [r, r.map((v) => (v === 0 ? 0 : -v))]), [0, 0, 0, 0], [0, 0, 0, 0]];
    let best = 0;
    for (let mask = 0; mask < 16; mask++) {
      let bit = 0;
      best = Math.max(best, information(base.map((r) => [1, r[0], r[1], r[2], r[3] === 0 ? ((mask >> bit++) & 1 ? 1 : -1) : r[3]])));
    }
    expect(information(p.trials.map(sign))).toBe(best);
  });

  it("takes extra trials for fake factors and refuses wide categories", () => {
    expect(plan(plainStudy(6), { family: "definitive", trials: 17 }).trials).toHaveLength(17);
    expect(refusal(() => plan(plainStudy(6), { family: "definitive", trials: 15 }))).toContain("13, 17, 21");
    expect(refusal(() => plan(plainStudy(3), { family: "definitive" }))).toContain("four to sixteen");
    expect(refusal(() => plan(study([cont("a"), cont("b"), cont("c"), cat("d", "x", "y", "z")]), { family: "definitive" }))).toContain("d has 3");
  });
});

describe("Orthogonal arrays", () => {
  it.each([...ARRAY_SIZES])("every array in %i trials has strength two by counting", (n) => {
    const all = arraysOf(n);
    expect(all.length).toBeGreaterThan(0);
    for (const a of all) {
      expect(a.columns.every((c) => c.values.length === n && new Set(c.values).size === c.levels)).toBe(true);
      expect(strengthTwo(a.columns.map((c) => c.values))).toBe(true);
    }
  });

  // Largest mixed arrays as tabulated by Hedayat, Sloane & Stufken (1999), chapter 12.
  it.each([
    [16, "4 4 4 4 4"],
    [18, "2 3 3 3 3 3 3 3"],
    [18, "3 3 3 3 3 3 6"],
    [25, "5 5 5 5 5 5"],
    [27, "3 3 3 3 3 3 3 3 3 9"],
    [32, "2 2 2 2 4 4 4 4 4 4 4 4 4"],
    [36, "2 2 2 2 2 2 2 2 2 2 2 3 3 3 3 3 3 3 3 3 3 3 3"],
    [36, "2 2 2 2 3 3 3 3 3 3 3 3 3 3 3 3 3"],
  ])("in %i trials there is one of %s levels", (n, levels) => {
    const kinds = arraysOf(n).map((a) =>
      a.columns
        .map((c) => c.levels)
        .sort((x, y) => x - y)
        .join(" "),
    );
    expect(kinds).toContain(levels);
  });

  it("gives each factor a column of its own levels, balanced over every pair", () => {
    const s = study([cont("a"), cat("b", "x", "y", "z"), cat("c", "p", "q"), { id: "d", kind: "discrete", values: [1, 2, 4] }]);
    const p = plan(s, { family: "array", trials: 18 });
    expect(new Set(p.trials.map((t) => t.settings.d))).toEqual(new Set([1, 2, 4]));
    expect(strengthTwo(s.factors.map((f) => p.trials.map((t) => String(t.settings[f.id]))))).toBe(true);
    expect(refusal(() => plan(s, { family: "array", trials: 16 }))).toContain("18, 36 trials");
    expect(refusal(() => plan(study([cat("a", "1", "2", "3", "4", "5", "6", "7"), cont("b")]), { family: "array", trials: 16 }))).toContain(
      "No orthogonal array",
    );
  });

  it("keeps two-level factors clear of two-factor interactions where half the columns suffice", () => {
    const s = plainStudy(7);
    expect(appraisePoints(s, points(plan(s, { family: "array", trials: 16, levels: "2" }))).resolution).toBe(4);
  });
});

describe("General factorials", () => {
  it("take every listed value and level, and as many levels of continuous factors as asked", () => {
    const s = study([cont("a", { low: 0, high: 10 }), { id: "b", kind: "discrete", values: [1, 2, 4] }, cat("c", "x", "y", "z")]);
    expect(plan(s, { family: "factorial" }).trials).toHaveLength(18);
    const wide = plan(s, { family: "factorial", levels: "a=5" });
    expect(wide.trials).toHaveLength(45);
    expect([...new Set(wide.trials.map((t) => t.settings.a))].sort((x, y) => Number(x) - Number(y))).toEqual([0, 2.5, 5, 7.5, 10]);
    expect(new Set(wide.trials.map((t) => JSON.stringify(t.settings))).size).toBe(45);
    expect(refusal(() => plan(s, { family: "factorial", levels: "b=5" }))).toContain("all of them are used");
    expect(refusal(() => plan(s, { family: "factorial", levels: "a=1" }))).toContain("from 2 to 12");
    expect(refusal(() => plan(s, { family: "factorial", levels: "q=3" }))).toContain("no factor “q”");
  });

  it("run each replicate as a block when copies and blocks agree", () => {
    const p = plan(study([cont("a"), cat("c", "x", "y", "z")]), { family: "factorial", replicates: 2, blocks: 2 });
    const waves = [...new Set(p.trials.map((t) => t.wave))];
    expect(waves.map((w) => new Set(p.trials.filter((t) => t.wave === w).map((t) => JSON.stringify(t.settings))).size)).toEqual([6, 6]);
  });
});

/** D-efficiency of a plan for terms, from its trials alone. */
const efficiency = (s: Study, p: Plan, terms: Parameters<typeof termSet>[1]): number =>
  appraisePoints(s, points(p), { terms: termSet(s, terms), possible: [] }).efficiency.d ?? 0;

describe("Built for a model", () => {
  // Best D-efficiencies found by an independent strong search over continuous coordinates; 100 is attained by orthogonality.
  it.each([
    [6, "main", 12, 100],
    [2, "quadratic", 6, 42.312],
    [2, "quadratic", 9, 46.224],
    [3, "quadratic", 10, 42.347],
    [3, "quadratic", 14, 46.326],
    [5, "main+2fi", 16, 100],
  ] as const)("%i factors, %s in %i trials reach D %f", (k, terms, n, best) => {
    const s = plainStudy(k);
    const p = plan(s, { family: "optimal", trials: n, terms, starts: 60 });
    expect(efficiency(s, p, terms)).toBeGreaterThan(best * 0.999);
    expect(efficiency(s, p, terms)).toBeLessThan(best * 1.0001 + 1e-9);
  });

  it("finds the best of every choice of trials on a small grid, for D, A and I (exhaustive)", () => {
    const s = study([
      { id: "a", kind: "discrete", values: [-1, 0, 1] },
      { id: "b", kind: "discrete", values: [-1, 0, 1] },
    ]);
    const terms = termSet(s, "quadratic");
    const grid = [-1, 0, 1].flatMap((a) => [-1, 0, 1].map((b): Settings => ({ a, b })));
    const best = { D: 0, A: Number.POSITIVE_INFINITY, I: Number.POSITIVE_INFINITY };
    const n = 7;
    const moments = (inverse: Float64Array, columns: number): number => {
      // Mean of x′Vx over the nine points, which is the region of two three-valued factors.
      const encoded = encoder(s, terms);
      const row = new Float64Array(columns);
      return (
        sum(
          grid.map((g) => {
            encoded.row(g, row);
            let t = 0;
            for (let i = 0; i < columns; i++) for (let j = 0; j < columns; j++) t += row[i] * row[j] * inverse[i * columns + j];
            return t;
          }),
        ) / 9
      );
    };
    const judge = (settings: Settings[]): { D: number; A: number; I: number } | undefined => {
      const m = pointModel(s, { settings, waves: settings.map(() => "w") }, terms);
      if (m.rank.dropped.length > 0) return undefined;
      const p = m.inverse.cols;
      return {
        D: Math.exp(m.logDeterminant),
        A: sum(Array.from({ length: p }, (_, i) => m.inverse.data[i * p + i])),
        I: moments(m.inverse.data, p),
      };
    };
    const walk = (from: number, chosen: number[]): void => {
      if (chosen.length === n) {
        const v = judge(chosen.map((i) => grid[i]));
        if (!v) return;
        best.D = Math.max(best.D, v.D);
        best.A = Math.min(best.A, v.A);
        best.I = Math.min(best.I, v.I);
        return;
      }
      for (let i = from; i < grid.length; i++) walk(i, [...chosen, i]);
    };
    walk(0, []);
    for (const criterion of ["D", "A", "I"] as const) {
      const p = plan(s, { family: "optimal", trials: n, terms: "quadratic", criterion, starts: 40 });
      expect(judge(p.trials.map((t) => t.settings))?.[criterion]).toBeCloseTo(best[criterion], criterion === "D" ? 6 : 9);
    }
  });

  it("is orthogonal where categories allow it", () => {
    const s = study([cat("c", "x", "y", "z"), cont("a"), cont("b")]);
    expect(efficiency(s, plan(s, { family: "optimal", trials: 12, terms: "main", starts: 20 }), "main")).toBeCloseTo(100, 6);
  });

  it("estimates cubic and three-factor terms picked one by one", () => {
    const s = plainStudy(3);
    const terms = [["a"], ["b"], ["c"], ["a", "a"], ["a", "b", "c"], ["a", "a", "a"]];
    const p = plan(s, { family: "optimal", trials: 9, terms, starts: 10 });
    expect(pointModel(s, points(p), terms).rank.dropped).toEqual([]);
    expect(p.recipe.terms).toEqual(terms);
  });

  it("stays in any region, on settable steps where asked, and the same seed makes the same plan", () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1000 }), fc.double({ min: -0.3, max: 1.2, noNaN: true }), fc.boolean(), (seed, bound, snapped) => {
        const s = study([cont("a", { step: 0.25 }), cont("b", { low: 10, high: 30 }), cat("c", "x", "y", "z")], {
          region: {
            limits: [{ terms: { a: 1, b: 0.1 }, at: "most", bound: 2 + bound }],
            forbidden: [{ c: ["y"], a: { from: -0.2, to: 0.4 } }],
          },
        });
        const options: PlanOptions = { family: "optimal", trials: 12, terms: "main+2fi", seed, starts: 3, snap: snapped };
        const p = plan(s, options);
        expect(p.trials).toHaveLength(12);
        expect(p.lost).toBe(0);
        for (const t of p.trials) {
          expect(allowed(s, t.settings)).toBe(true);
          expect(withinRanges(s.factors, t.settings)).toBe(true);
          if (snapped) for (const f of s.factors) if (isNumeric(f)) expect(snap(f, t.settings[f.id] as number)).toBe(t.settings[f.id]);
        }
        expect(plan(s, options).trials).toEqual(p.trials);
      }),
      { numRuns: 12 },
    );
  });

  it("reaches the corners a slanting limit cuts: the best three trials of a triangle are its corners", () => {
    // Main effects of two factors in three trials: |X′X| is four times the triangle's squared area, largest at the corners.
    const s = study([cont("a"), cont("b")], { region: { limits: [{ terms: { a: 1, b: 1 }, at: "most", bound: 0 }], forbidden: [] } });
    const p = plan(s, { family: "optimal", trials: 3, terms: "main", snap: false });
    const got = p.trials.map((t) => `${Number(t.settings.a).toFixed(4)},${Number(t.settings.b).toFixed(4)}`).sort();
    expect(got).toEqual(["-1.0000,-1.0000", "-1.0000,1.0000", "1.0000,-1.0000"]);
  });

  it("keeps the runs already made and fills what they lack", () => {
    const s = plainStudy(2);
    const corner = [-1, 1].flatMap((a) => [-1, 1].map((b) => ({ a, b })));
    const run = parseStudy({ ...s, waves: [{ id: "w1" }], trials: corner.map((settings, i) => ({ id: `t${i + 1}`, wave: "w1", settings })) });
    expect(refusal(() => plan(run, { family: "optimal", trials: 2, terms: "quadratic", keep: true }))).toContain("at least 3 can");
    const p = plan(run, { family: "optimal", trials: 4, terms: "quadratic", keep: true, starts: 20 });
    const all = { settings: [...corner, ...p.trials.map((t) => t.settings)], waves: [...corner.map(() => "w1"), ...p.trials.map((t) => t.wave)] };
    expect(pointModel(run, all, termSet(run, "quadratic")).rank.dropped).toEqual([]);
    expect(p.trials[0].order).toBe(5);
  });

  it("splits into even blocks whose shift can be told from the terms", () => {
    const s = plainStudy(3);
    const p = plan(s, { family: "optimal", trials: 12, terms: "main", blocks: 3, starts: 20 });
    const waves = [...new Set(p.trials.map((t) => t.wave))];
    expect(waves.map((w) => p.trials.filter((t) => t.wave === w).length)).toEqual([4, 4, 4]);
    expect(efficiency(s, p, "main")).toBeCloseTo(100, 6);
  });

  it("stopped half way keeps the best it has, and the recipe makes that plan again", () => {
    const s = plainStudy(4);
    const steps = planSteps(s, { family: "optimal", trials: 20, terms: "quadratic", starts: 5000 });
    let step = steps.next();
    for (let i = 0; i < 6 && !step.done; i++) step = steps.next();
    step = steps.next(true);
    expect(step.done).toBe(true);
    const p = step.value as Plan;
    expect(p.recipe.starts).toBeLessThan(5000);
    const again = plan(s, { family: "optimal", trials: 20, terms: "quadratic", starts: p.recipe.starts ?? 0 });
    expect(again.trials).toEqual(p.trials);
  });

  it("says at once what cannot be planned", () => {
    const s = study([cont("a"), cont("b")], {
      region: {
        limits: [
          { terms: { a: 1, b: 1 }, at: "most", bound: -0.5 },
          { terms: { a: 1, b: 1 }, at: "least", bound: 0.5 },
        ],
        forbidden: [],
      },
    });
    expect(refusal(() => plan(s, { family: "optimal", trials: 6, terms: "main" }))).toContain("No point was found");
    const one = study([cont("a"), cat("c", "x", "y")], { region: { limits: [], forbidden: [{ c: ["y"] }] } });
    expect(refusal(() => plan(one, { family: "optimal", trials: 6, terms: "main" }))).toContain("only the level x");
    expect(refusal(() => plan(plainStudy(5), { family: "optimal", trials: 12, terms: "quadratic" }))).toContain("21 columns; 12 trials cannot");
    expect(refusal(() => plan(plainStudy(5), { family: "optimal", trials: 10_000, terms: "main" }))).toContain("from 1 to 5000");
    const many = study(Array.from({ length: 30 }, (_, i) => cont(`f${i}`)));
    expect(refusal(() => plan(many, { family: "optimal", trials: 600, terms: "quadratic" }))).toContain("at most 300");
  });
});

describe("Least aliasing", () => {
  const s = plainStudy(6);
  it("12 trials, 6 factors, D at 90 %: the alias trace the literature's criterion asks for, the constant's row included", () => {
    const p = plan(s, { family: "least-aliasing", trials: 12, snap: false, starts: 8 });
    const a = appraisePoints(s, points(p));
    expect(a.alias.trace).toBeLessThan(0.515);
    expect(a.efficiency.d).toBeGreaterThan(90 - 1e-6);
    expect(p.recipe.keepEfficiency).toBe(0.9);
  });

  it("keeping all of the efficiency is the sharpest plan itself", () => {
    const p = plan(s, { family: "least-aliasing", trials: 12, keepEfficiency: 1, starts: 2 });
    expect(appraisePoints(s, points(p)).efficiency.d).toBeCloseTo(100, 4);
  });

  it("refuses a share out of reach and an empty list of possible terms", () => {
    expect(refusal(() => plan(s, { family: "least-aliasing", trials: 12, keepEfficiency: 1.5 }))).toContain("up to 1");
    expect(refusal(() => plan(s, { family: "least-aliasing", trials: 24, terms: "main+2fi" }))).toContain("nothing to keep clear of");
  });
});

describe("Coded settings of every family", () => {
  it("are those of the natural settings", () => {
    const s = study([cont("a", { low: 50, high: 70, step: 1 }), cont("b", { low: 1, high: 100, scale: "log" }), cont("c"), cont("d")]);
    for (const options of [
      { family: "definitive" },
      { family: "box-behnken" },
      { family: "composite" },
      { family: "plackett-burman", trials: 12 },
    ] as PlanOptions[])
      for (const t of plan(s, options).trials)
        for (const f of s.factors) if (isNumeric(f)) expect(t.coded[f.id]).toBeCloseTo(code(f, t.settings[f.id] as number), 12);
  });
});

describe("Every family", () => {
  const s = study(
    [cont("a", { low: 50, high: 70, step: 1 }), cont("b", { low: 0, high: 3, step: 0.25 }), cont("c"), cont("d", { low: 10, high: 12, step: 0.1 })],
    {
      region: { limits: [{ terms: { a: 1, b: 4 }, at: "most", bound: 78 }], forbidden: [] },
    },
  );
  const asks: PlanOptions[] = [
    { family: "factorial" },
    { family: "fraction", trials: 8 },
    { family: "plackett-burman", trials: 12 },
    { family: "composite", centre: 3 },
    { family: "box-behnken", centre: 3 },
    { family: "definitive" },
    { family: "array", trials: 9 },
    { family: "optimal", trials: 10, starts: 3 },
    { family: "least-aliasing", trials: 10, starts: 2 },
  ];
  it.each(asks)("$family keeps the region and the settable steps, loses only what it says, and repeats itself from its seed", (options) => {
    const p = plan(s, { ...options, seed: 9 });
    for (const t of p.trials) {
      expect(allowed(s, t.settings)).toBe(true);
      expect(withinRanges(s.factors, t.settings)).toBe(true);
      for (const f of s.factors) if (isNumeric(f)) expect(t.settings[f.id]).toBe(snap(f, t.settings[f.id] as number));
    }
    expect(p.trials.map((t) => t.order).sort((x, y) => x - y)).toEqual(p.trials.map((_, i) => i + 1));
    expect(plan(s, { ...options, seed: 9 }).trials).toEqual(p.trials);
    const sorted = (q: Plan): string[] => q.trials.map((t) => JSON.stringify(t.settings)).sort();
    // Another seed makes another run order; plans that are not searched for keep their points.
    if (options.family !== "optimal" && options.family !== "least-aliasing") expect(sorted(plan(s, { ...options, seed: 10 }))).toEqual(sorted(p));
    const standard = plan(s, { ...options, seed: 9, standardOrder: true });
    expect(standard.trials.map((t) => t.standard)).toEqual(standard.trials.map((_, i) => i + 1));
  });

  it("answers thirty factors at once, with a plan or with a sentence", () => {
    const many = study(Array.from({ length: 30 }, (_, i) => cont(`f${i + 1}`)));
    for (const options of [
      { family: "factorial" },
      { family: "fraction", trials: 64 },
      { family: "composite" },
      { family: "box-behnken" },
      { family: "definitive" },
    ] as PlanOptions[])
      expect(refusal(() => plan(many, options)).split(". ")).toHaveLength(1);
    expect(plan(many, { family: "plackett-burman", trials: 32 }).trials).toHaveLength(32);
    expect(plan(many, { family: "array", trials: 32 }).trials).toHaveLength(32);
  });
});
