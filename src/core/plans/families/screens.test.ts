import { describe, expect, it } from "vitest";
import { aliasMatrix } from "../../appraisal/aliasing";
import { appraisePoints } from "../../appraisal/appraise";
import { pointModel } from "../../appraisal/terms-info";
import { possibleTerms, termSet } from "../../terms/candidates";
import { cat, cont, plainStudy, pointsOf, refusal, studyOf, sum } from "../../testing/studies";
import { ARRAY_SIZES, arraysOf } from "../arrays";
import { conferenceMatrix, hadamardColumns, SCREEN_SIZES } from "../hadamard";
import { makePlan } from "../make-plan";
import type { Plan } from "../plan";

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
    const model = pointModel(s, pointsOf(makePlan(s, { family: "plackett-burman", trials: 12 })), termSet(s, "main"));
    const { values, columns } = aliasMatrix(
      s,
      pointsOf(makePlan(s, { family: "plackett-burman", trials: 12 })),
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
    const p = makePlan(s, { family: "plackett-burman", trials: 24, foldOver: true });
    expect(p.trials).toHaveLength(24);
    const table = aliasMatrix(
      s,
      pointsOf(p),
      pointModel(s, pointsOf(p), termSet(s, "main")),
      possibleTerms(s, termSet(s, "main")),
    );
    expect(sum(table.values.slice(1).flat().map(Math.abs))).toBeLessThan(1e-12);
  });

  it("says what it cannot serve", () => {
    expect(refusal(() => makePlan(plainStudy(11), { family: "plackett-burman", trials: 13 }))).toContain("12, 16, 20");
    expect(
      refusal(() =>
        makePlan(studyOf([cont("a"), cont("b"), cat("c", "x", "y", "z")]), { family: "plackett-burman", trials: 12 }),
      ),
    ).toContain("c has 3");
    expect(refusal(() => makePlan(plainStudy(5), { family: "plackett-burman", trials: 12, blocks: 2 }))).toContain(
      "as many replicates as blocks",
    );
  });
});

describe("Definitive screening", () => {
  it.each([4, 6, 8, 10, 12, 14, 16, 18])(
    "conference matrix of order %i: zero diagonal, signs elsewhere, C′C = (m − 1)I",
    (m) => {
      const c = conferenceMatrix(m);
      for (let i = 0; i < m; i++)
        for (let j = 0; j < m; j++) {
          expect(Math.abs(c[i][j])).toBe(i === j ? 0 : 1);
          expect(sum(c.map((r) => r[i] * r[j]))).toBe(i === j ? m - 1 : 0);
        }
    },
  );

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
    const p = makePlan(s, { family: "definitive" });
    expect(p.trials).toHaveLength(n);
    const rows = p.trials.map((t) => s.factors.map((f) => t.settings[f.id] as number));
    for (let a = 0; a < k; a++)
      for (let b = 0; b < k; b++) for (let c = b; c < k; c++) expect(sum(rows.map((r) => r[a] * r[b] * r[c]))).toBe(0);
  });

  it("augmented for a category has 2m + 2 trials and the best of all folded signs for its free entries (Jones & Nachtsheim 2013)", () => {
    const s = studyOf([cont("a"), cont("b"), cont("c"), cat("d", "x", "y")]);
    const p = makePlan(s, { family: "definitive" });
    expect(p.trials).toHaveLength(10);
    const sign = (t: Plan["trials"][number]): number[] => [
      1,
      ...["a", "b", "c"].map((id) => t.settings[id] as number),
      t.settings.d === "y" ? 1 : -1,
    ];
    const determinant = (m: number[][]): number =>
      m.length === 1
        ? m[0][0]
        : m[0].reduce(
            (t, v, j) => t + (j % 2 ? -1 : 1) * v * determinant(m.slice(1).map((r) => r.filter((_, c) => c !== j))),
            0,
          );
    const information = (rows: number[][]): number =>
      determinant(rows[0].map((_, a) => rows[0].map((__, b) => sum(rows.map((r) => r[a] * r[b])))));
    // Both pairs of free entries, opposite in each: where the conference matrix has its zero, and at the centre.
    const c = conferenceMatrix(4);
    const base = [...c.flatMap((r) => [r, r.map((v) => (v === 0 ? 0 : -v))]), [0, 0, 0, 0], [0, 0, 0, 0]];
    let best = 0;
    for (const mask of [0b0101, 0b1001, 0b0110, 0b1010]) {
      let bit = 0;
      best = Math.max(
        best,
        information(base.map((r) => [1, r[0], r[1], r[2], r[3] === 0 ? ((mask >> bit++) & 1 ? 1 : -1) : r[3]])),
      );
    }
    expect(information(p.trials.map(sign))).toBe(best);
  });

  it("keeps every fold-over pair with categories too: mains are clear of squares and interactions, exactly", () => {
    const s = studyOf([cont("a"), cont("b"), cont("c"), cat("d", "x", "y"), cat("e", "u", "v"), cont("f")]);
    const p = makePlan(s, { family: "definitive" });
    const coded = p.trials.map((t) =>
      ["a", "b", "c", "d", "e", "f"].map((id) => {
        const v = t.settings[id];
        return typeof v === "number" ? v : v === "y" || v === "v" ? 1 : -1;
      }),
    );
    for (let m = 0; m < 6; m++)
      for (let i = 0; i < 6; i++) for (let j = i; j < 6; j++) expect(sum(coded.map((r) => r[m] * r[i] * r[j]))).toBe(0);
    // Each trial stands opposite another in every column.
    for (const r of coded)
      expect(coded.some((q) => q.every((v, i) => v === -r[i] || (v === 0 && r[i] === 0)))).toBe(true);
  });

  it("takes extra trials for fake factors and refuses wide categories", () => {
    expect(makePlan(plainStudy(6), { family: "definitive", trials: 17 }).trials).toHaveLength(17);
    expect(refusal(() => makePlan(plainStudy(6), { family: "definitive", trials: 15 }))).toContain("13, 17, 21");
    expect(refusal(() => makePlan(plainStudy(3), { family: "definitive" }))).toContain("four to sixteen");
    expect(
      refusal(() =>
        makePlan(studyOf([cont("a"), cont("b"), cont("c"), cat("d", "x", "y", "z")]), { family: "definitive" }),
      ),
    ).toContain("d has 3");
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
    const s = studyOf([
      cont("a"),
      cat("b", "x", "y", "z"),
      cat("c", "p", "q"),
      { id: "d", kind: "discrete", values: [1, 2, 4] },
    ]);
    const p = makePlan(s, { family: "array", trials: 18 });
    expect(new Set(p.trials.map((t) => t.settings.d))).toEqual(new Set([1, 2, 4]));
    expect(strengthTwo(s.factors.map((f) => p.trials.map((t) => String(t.settings[f.id]))))).toBe(true);
    expect(refusal(() => makePlan(s, { family: "array", trials: 16 }))).toContain("18, 36 trials");
    expect(
      refusal(() =>
        makePlan(studyOf([cat("a", "1", "2", "3", "4", "5", "6", "7"), cont("b")]), { family: "array", trials: 16 }),
      ),
    ).toContain("No orthogonal array");
  });

  it("keeps two-level factors clear of two-factor interactions where half the columns suffice", () => {
    const s = plainStudy(7);
    expect(appraisePoints(s, pointsOf(makePlan(s, { family: "array", trials: 16, levels: "2" }))).resolution).toBe(4);
  });
});
