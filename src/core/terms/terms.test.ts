import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { Study, Term } from "../study/schema";
import { cat, cont, refusal, studyOf } from "../testing/studies";
import {
  canBend,
  candidateTerms,
  dependants,
  parentsOf,
  parentsPresent,
  possibleTerms,
  termSet,
  withParents,
} from "./candidates";
import { contrastRows, encoder, waveColumns } from "./model-matrix";
import {
  alphabetOf,
  checkTerms,
  compareTerms,
  inModelOrder,
  powers,
  termKey,
  termLetters,
  termName,
  termShape,
} from "./term";

// Ids against the alphabet, so that order by factor and order by name are told apart.
const study: Study = studyOf(
  [
    { id: "z", name: "Temperature", kind: "continuous", low: 10, high: 30 },
    { id: "m", name: "Time", kind: "continuous", low: 1, high: 100, scale: "log" },
    { id: "d", name: "Dose", kind: "discrete", values: [1, 2, 4] },
    { id: "v", name: "Valve", kind: "discrete", values: [0, 1] },
    { id: "lot", name: "Lot", kind: "categorical", levels: ["old", "mid", "new"] },
    { id: "gas", name: "Gas", kind: "categorical", levels: ["air", "argon"] },
  ],
  { covariates: [{ id: "damp", name: "Dampness" }] },
);
const alphabet = alphabetOf(study);
const names = (terms: readonly Term[]): string[] => terms.map((t) => termLetters(alphabet, t));
const anyTerm = fc.array(fc.constantFrom("z", "m", "d", "lot"), { minLength: 1, maxLength: 4 });

describe("terms", () => {
  it("are the same in whatever order their factors are named", () => {
    fc.assert(
      fc.property(anyTerm, fc.infiniteStream(fc.double({ min: 0, max: 1, noNaN: true })), (term, keys) => {
        const shuffled = term
          .map((id) => ({ id, key: keys.next().value as number }))
          .sort((a, b) => a.key - b.key)
          .map((x) => x.id);
        expect(termKey(shuffled)).toBe(termKey(term));
        expect(termName(alphabet, shuffled)).toBe(termName(alphabet, term));
        expect(compareTerms(alphabet, shuffled, term)).toBe(0);
      }),
    );
  });
  it("differ where their powers differ", () => {
    fc.assert(
      fc.property(anyTerm, anyTerm, (a, b) => {
        const count = (t: Term) => JSON.stringify(powers(alphabet, t));
        expect(termKey(a) === termKey(b)).toBe(count(a) === count(b));
      }),
    );
  });
  it("stand in one order: mains, interactions, squares, then by degree, by factor within", () => {
    const terms: Term[] = [["z", "z"], ["lot"], ["d", "z"], ["m"], ["z", "m", "d"], ["z"], ["m", "z"], ["z", "z", "m"]];
    expect(names(inModelOrder(alphabet, terms))).toEqual(["A", "B", "E", "AB", "AC", "A²", "ABC", "A²B"]);
    expect(inModelOrder(alphabet, [["d", "z"]])).toEqual([["z", "d"]]);
  });
  it("are kept once, and never as the constant", () => {
    expect(inModelOrder(alphabet, [["z", "m"], [], ["m", "z"], ["z"]])).toEqual([["z"], ["z", "m"]]);
  });
  it.each<[Term, string, string, ReturnType<typeof termShape>]>([
    [[], "constant", "constant", "constant"],
    [["z"], "Temperature", "A", "main"],
    [["damp"], "Dampness", "Dampness", "main"],
    [["m", "z"], "Temperature × Time", "AB", "interaction"],
    [["d", "d"], "Dose²", "C²", "square"],
    [["z", "m", "d"], "Temperature × Time × Dose", "ABC", "interaction"],
    [["m", "z", "z"], "Temperature² × Time", "A²B", "higher"],
    [["z", "z", "z"], "Temperature³", "A³", "higher"],
    [["@wave"], "wave", "wave", "main"],
  ])("%j is called %s", (term, name, letters, shape) => {
    expect(termName(alphabet, term)).toBe(name);
    expect(termLetters(alphabet, term)).toBe(letters);
    expect(termShape(term)).toBe(shape);
  });
});

describe("a list of terms from outside", () => {
  it.each<[Term[], RegExp]>([
    [[["z"], ["q"]], /terms\[1\]: there is no factor or covariate “q”/],
    [[["damp", "z"]], /terms\[0\]: the covariate Dampness can only stand alone/],
    [[["damp", "damp"]], /can only stand alone/],
    [[["lot", "lot"]], /terms\[0\]: Lot is a category and has no square/],
    [[["z", "m"], ["z"], ["m", "z"]], /terms\[2\] names Temperature × Time a second time/],
  ])("%j is refused by its place", (terms, why) => expect(refusal(() => checkTerms(study, terms))).toMatch(why));
  it("does not use what was retired", () => {
    const without = { ...study, factors: study.factors.map((f) => (f.id === "d" ? { ...f, retired: 1 } : f)) };
    expect(refusal(() => checkTerms(without, [["z", "d"]]))).toMatch(/Dose is retired; bring it back/);
  });
  it("comes back in model order", () => {
    expect(checkTerms(study, [["d", "z"], ["m"], ["damp"]])).toEqual([["m"], ["damp"], ["z", "d"]]);
  });
});

describe("sets of terms with a name", () => {
  it("are counted: k mains, k(k−1)/2 pairs, squares of what can bend", () => {
    expect(termSet(study, "main")).toHaveLength(6);
    expect(termSet(study, "main+2fi")).toHaveLength(6 + 15);
    // Two continuous ones and the dose of three values bend; a valve of two and categories do not.
    expect(termSet(study, "quadratic")).toHaveLength(6 + 15 + 3);
    expect(study.factors.filter(canBend).map((f) => f.id)).toEqual(["z", "m", "d"]);
  });
  it("leave out retired factors", () => {
    const without = { ...study, factors: study.factors.map((f) => (f.id === "z" ? { ...f, retired: 2 } : f)) };
    expect(termSet(without, "quadratic").flat()).not.toContain("z");
    expect(termSet(without, "main+2fi")).toHaveLength(5 + 10);
  });
  it("what may be there unasked is every pair that was not asked", () => {
    expect(possibleTerms(study, termSet(study, "main"))).toHaveLength(15);
    expect(possibleTerms(study, [["m", "z"]])).toHaveLength(14);
    expect(possibleTerms(study, termSet(study, "main+2fi"))).toEqual([]);
  });
  it("candidates hold the quadratic set, covariates and whatever a model holds besides, once", () => {
    const all = candidateTerms(study, [
      ["z", "z", "z"],
      ["m", "z"],
    ]);
    expect(all).toHaveLength(24 + 1 + 1);
    expect(all.map(termKey)).toContain("damp");
    expect(all.at(-1)).toEqual(["z", "z", "z"]);
  });
});

describe("hierarchy", () => {
  it.each<[Term, Term[]]>([
    [["z"], []],
    [
      ["z", "m"],
      [["m"], ["z"]],
    ],
    [["z", "z"], [["z"]]],
    [
      ["z", "z", "m"],
      [
        ["z", "m"],
        ["z", "z"],
      ],
    ],
    [
      ["z", "m", "d"],
      [
        ["m", "d"],
        ["z", "d"],
        ["z", "m"],
      ],
    ],
  ])("parents of %j", (term, parents) => {
    expect(parentsOf(term).map(termKey).sort()).toEqual(parents.map(termKey).sort());
  });
  it.each<[Term, string[], boolean, boolean]>([
    // term, keys in the model, allowed under strong, under weak
    [["z", "m"], ["z", "m"], true, true],
    [["z", "m"], ["z"], false, true],
    [["z", "m"], [], false, false],
    [["z", "z"], ["z"], true, true],
    [["z", "z"], ["m"], false, false],
    [["z"], [], true, true],
  ])("%j beside %j", (term, keys, strong, weak) => {
    expect(parentsPresent(term, new Set(keys), "strong")).toBe(strong);
    expect(parentsPresent(term, new Set(keys), "weak")).toBe(weak);
    expect(parentsPresent(term, new Set(keys), "off")).toBe(true);
  });
  it("a leaving term takes those along that would stand without a parent", () => {
    const terms: Term[] = [["z"], ["m"], ["z", "m"], ["z", "z"]];
    expect(names(dependants(terms, ["z"], "strong"))).toEqual(["AB", "A²"]);
    expect(names(dependants(terms, ["z"], "weak"))).toEqual(["A²"]);
    expect(dependants(terms, ["z"], "off")).toEqual([]);
    expect(dependants(terms, ["z", "m"], "strong")).toEqual([]);
  });
  it("parents are filled in all the way down, and then all of them are there", () => {
    expect(names(withParents(alphabet, [["z", "z", "m"]]))).toEqual(["A", "B", "AB", "A²", "A²B"]);
    fc.assert(
      fc.property(fc.array(anyTerm, { minLength: 1, maxLength: 4 }), (terms) => {
        const full = withParents(alphabet, terms);
        const keys = new Set(full.map(termKey));
        expect(full.every((t) => parentsPresent(t, keys, "strong"))).toBe(true);
        expect(terms.every((t) => keys.has(termKey(t)))).toBe(true);
      }),
    );
  });
});

describe("columns of categories", () => {
  it.each([2, 3, 4, 7])("%d levels: every contrast sums to zero, and they tell the levels apart", (levels) => {
    for (const kind of ["sum", "orthonormal"] as const) {
      const rows = contrastRows(levels, kind);
      expect(rows).toHaveLength(levels);
      for (let j = 0; j < levels - 1; j++) expect(rows.reduce((t, r) => t + r[j], 0)).toBeCloseTo(0, 12);
      expect(new Set(rows.map((r) => r.map((v) => v.toFixed(9)).join())).size).toBe(levels);
    }
  });
  it.each([3, 4, 7])("orthonormal ones of %d levels are at right angles, with mean square 1", (levels) => {
    const rows = contrastRows(levels, "orthonormal");
    for (let j = 0; j < levels - 1; j++)
      for (let k = 0; k <= j; k++)
        expect(rows.reduce((t, r) => t + r[j] * r[k], 0) / levels).toBeCloseTo(j === k ? 1 : 0, 12);
  });
  it("two levels are −1 and 1, named by the second", () => {
    const e = encoder(study, [["gas"]]);
    expect(e.columns.map((c) => c.level)).toEqual([undefined, "argon"]);
    const row = new Float64Array(2);
    e.row({ gas: "air" }, row);
    expect([...row]).toEqual([1, -1]);
  });
});

describe("rows of a model matrix", () => {
  const terms: Term[] = [["z"], ["m"], ["lot"], ["z", "lot"], ["z", "z"], ["z", "m"]];
  const e = encoder(study, terms);
  const row = (settings: Record<string, number | string>): number[] => {
    const into = new Float64Array(e.columns.length);
    e.row(settings, into);
    return [...into];
  };
  it("code ranges to −1 … 1, logarithmic ones by their logarithm", () => {
    // 25 of 10 … 30 is ½; √10·10 of 1 … 100 is ¾ of the way in logarithms: ½.
    const x = row({ z: 25, m: 10 ** 1.5, lot: "mid" });
    expect(x[0]).toBe(1);
    expect(x[1]).toBeCloseTo(0.5, 12);
    expect(x[2]).toBeCloseTo(0.5, 12);
    expect(x.slice(3, 5)).toEqual([0, 1]);
    expect(x.slice(5, 7).map((v) => v + 0)).toEqual([0, 0.5]);
    expect(x[7]).toBeCloseTo(0.25, 12);
    expect(x[8]).toBeCloseTo(0.25, 12);
  });
  it("the last level is minus all others", () => {
    expect(row({ z: 30, m: 1, lot: "new" }).slice(3, 7)).toEqual([-1, -1, -1, -1]);
  });
  it("name each column by its term, its place within it and its level", () => {
    expect(e.columns.map((c) => [c.key, c.index, c.level])).toEqual([
      ["", 0, undefined],
      ["z", 0, undefined],
      ["m", 0, undefined],
      ["lot", 0, "old"],
      ["lot", 1, "mid"],
      ["lot*z", 0, "old"],
      ["lot*z", 1, "mid"],
      ["z*z", 0, undefined],
      ["m*z", 0, undefined],
    ]);
  });
  it("of categories with each other multiply their columns", () => {
    const both = encoder(study, [["lot", "gas"]]);
    expect(both.columns.slice(1).map((c) => c.level)).toEqual(["old × argon", "mid × argon"]);
    const x = new Float64Array(3);
    both.row({ lot: "new", gas: "air" }, x);
    expect([...x]).toEqual([1, 1, 1]);
  });
  it("covariates are coded over what was measured, and one that never varied stays finite", () => {
    const damp = encoder(study, [["damp"]], "sum", new Map([["damp", [2, 6] as [number, number]]]));
    const x = new Float64Array(2);
    damp.row({ damp: 3 }, x);
    expect(x[1]).toBeCloseTo(-0.5, 12);
    const flat = encoder(study, [["damp"]], "sum", new Map([["damp", [4, 4] as [number, number]]]));
    flat.row({ damp: 4 }, x);
    expect(x[1]).toBe(0);
  });
  it("are the same where only some factors move, however they are asked", () => {
    const at = { z: 12, m: 5, lot: "old" };
    const vary = e.varying(at, ["m", "z"]);
    fc.assert(
      fc.property(
        fc.double({ min: 10, max: 30, noNaN: true }),
        fc.double({ min: 1, max: 100, noNaN: true }),
        (z, m) => {
          const into = new Float64Array(e.columns.length);
          vary([m, z], into);
          expect([...into]).toEqual(row({ ...at, z, m }));
        },
      ),
    );
  });
  it("do not remember the row before", () => {
    const first = row({ z: 11, m: 2, lot: "old" });
    row({ z: 29, m: 90, lot: "new" });
    expect(row({ z: 11, m: 2, lot: "old" })).toEqual(first);
  });
});

describe("columns of waves", () => {
  const labels = new Map([
    ["u", "First"],
    ["v", "Second"],
    ["w", "Third"],
  ]);
  it("none for a single wave", () => {
    expect(waveColumns(["u", "u"], labels)).toEqual({ columns: [], rows: [[], []] });
  });
  it("one for two, named by the second; two for three, summing to zero over them", () => {
    const two = waveColumns(["u", "v", "v"], labels);
    expect(two.columns.map((c) => c.level)).toEqual(["Second"]);
    expect(two.rows).toEqual([[-1], [1], [1]]);
    const three = waveColumns(["v", "u", "w"], labels);
    expect(three.columns.map((c) => c.level)).toEqual(["Second", "First"]);
    expect([0, 1].map((j) => three.rows.reduce((t, r) => t + r[j], 0))).toEqual([0, 0]);
  });
});

describe("factors beside each other", () => {
  it("a study of plain factors is coded by itself", () => {
    const plain = studyOf([cont("a"), cont("b", { low: 0, high: 1 }), cat("k", "x", "y")]);
    const e = encoder(plain, [["a"], ["b"], ["k"]]);
    const into = new Float64Array(8);
    e.row({ a: 0.25, b: 0.25, k: "y" }, into, 3);
    expect([...into]).toEqual([0, 0, 0, 1, 0.25, -0.5, 1, 0]);
  });
});
