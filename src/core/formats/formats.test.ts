import { readFileSync } from "node:fs";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { readNumber } from "../numerics/read-number";
import { applyEdits, type Edit, edit, inverseEdits, sameData } from "../study/edit";
import { parseStudy } from "../study/validate";
import { corners, plainStudy, withTrials } from "../testing/studies";
import { messageText } from "../words/answers";
import { matchColumns } from "./columns";
import { ledgerCsv, readSheet } from "./csv";
import { freshId, goalText, readGoal, readRange, readRegion, readSpan } from "./phrases";
import { previewImport } from "./sheet-import";
import { readStudyFile } from "./study-file";

const wool = readStudyFile(
  readFileSync(new URL("../../../examples/wool-scouring.trialmoor.json", import.meta.url), "utf8"),
);

describe("numbers as people write them", () => {
  it.each([
    ["0,5", 0.5],
    ["1.25", 1.25],
    ["−3", -3],
    ["1 250", 1250],
    ["1e-3", 0.001],
    [".5", 0.5],
    ["", null],
    ["–", null],
    ["5 kg", undefined],
    ["1.2.3", undefined],
    ["NaN", undefined],
    ["1e999", undefined],
  ])("%s", (text, value) => expect(readNumber(text)).toBe(value));
});

describe("sheets", () => {
  it("recognises separator and decimal mark", () => {
    expect(readSheet("a;b\n1,5;2")).toMatchObject({ separator: ";", decimal: "," });
    expect(readSheet("a\tb\n1.5\t2")).toMatchObject({ separator: "\t", decimal: "." });
    expect(readSheet('a,b\n"1,5",2').rows[1]).toEqual(["1,5", "2"]);
    // A column of numbers with decimal commas, as it is pasted: cut at its commas it would lose the decimals.
    expect(readSheet("100,0\n103,7\n\n99\n-1,25")).toEqual({
      rows: [["100,0"], ["103,7"], ["99"], ["-1,25"]],
      separator: "\t",
      decimal: ",",
    });
  });
  it.each([
    ["", "no text"],
    ["a\u0000b", "binary"],
    ["x".repeat(20_000_001), "million characters"],
  ])("refuses %#", (text, why) => expect(() => readSheet(text)).toThrow(why));
  it("matches headings by id, by name, with unit in brackets", () => {
    expect(
      matchColumns(wool, [
        "order",
        "temp",
        "Detergent (g/kg)",
        "grease.2",
        "Whiteness [index]",
        "other",
        "dose (as run)",
      ]),
    ).toEqual([
      { to: "order" },
      { to: "setting", id: "temp" },
      { to: "setting", id: "dose" },
      { to: "result", id: "grease", repeat: 2 },
      { to: "result", id: "white", repeat: 0 },
      { to: "ignored" },
      { to: "asRun", id: "dose" },
    ]);
  });
});

describe("CSV", () => {
  it("goes out and comes back unchanged", () =>
    expect(previewImport(wool, ledgerCsv(wool))).toMatchObject({
      by: "trial id",
      values: [],
      notes: [],
      untaken: [{ column: "standard" }, { column: "wave" }, { column: "kind" }, { column: "state" }],
      problems: [],
      matched: { length: 31 },
    }));
  it("keeps spreadsheets from running a cell", () => {
    const study = withTrials(plainStudy(2), corners(2), [1, 2, 3, 4]);
    const risky = { ...study, trials: study.trials.map((t, i) => ({ ...t, note: ["=1+1", "-5", "@x", "plain"][i] })) };
    expect(
      ledgerCsv(risky)
        .split("\r\n")
        .slice(1, 5)
        .map((l) => l.split(",").at(-2)),
    ).toEqual(["'=1+1", "-5", "'@x", "plain"]);
  });
  it("rows with the same settings go to replicates in run order, one each; one too many is a problem", () => {
    const study = withTrials(plainStudy(1), [{ a: -1 }, { a: 1 }, { a: -1 }], []);
    const preview = previewImport(study, "a,y\n-1,5\n-1,6\n-1,7\n1,8");
    expect(preview.values.map((v) => [v.order, v.after])).toEqual([
      [1, 5],
      [3, 6],
      [2, 8],
    ]);
    expect(messageText("rows", preview.problems[0].said)).toContain("no trial is left with these settings");
  });
  it("settings that contradict the trial number are refused, not written", () => {
    const study = withTrials(plainStudy(1), [{ a: -1 }, { a: 1 }], []);
    expect(previewImport(study, "order,a,y\n1,1,5")).toMatchObject({
      values: [],
      problems: [{ said: { code: "row-other-settings", values: { row: 2, order: 1 } } }],
    });
  });
  it("finds trials by their id, whatever the order of rows; an id and a number that disagree leave the row out", () => {
    const study = withTrials(plainStudy(1), [{ a: -1 }, { a: 1 }, { a: -1 }], []);
    const preview = previewImport(study, "trial id,order,y\nt3,3,7\nt1,2,5\nt9,1,6\nt2,,8");
    expect(preview.changes).toEqual([
      { trial: "t3", response: "y", from: null, to: 7 },
      { trial: "t2", response: "y", from: null, to: 8 },
    ]);
    expect(preview.problems.map((p) => messageText("rows", p.said))).toEqual([
      "Row 3: trial t1 has the number 1, not 2; the row is left out.",
      "Row 4: there is no trial t9; the row is left out.",
    ]);
  });
  it("repeats are columns", () => {
    const study = withTrials(plainStudy(1), [{ a: -1 }], []);
    expect(previewImport(study, "order\ty.1\ty.2\n1\t5\t6").values[0].after).toEqual([5, 6]);
  });
});

describe("phrases", () => {
  it.each([
    ["52 to 68", { kind: "continuous", low: 52, high: 68 }],
    ["-5–5", { kind: "continuous", low: -5, high: 5 }],
    ["0,5 to 1,5", { kind: "continuous", low: 0.5, high: 1.5 }],
    ["4, 1, 2", { kind: "discrete", values: [1, 2, 4] }],
    ["0,5; 1,5", { kind: "discrete", values: [0.5, 1.5] }],
    ["hill, lowland", { kind: "categorical", levels: ["hill", "lowland"] }],
    ["old / new", { kind: "categorical", levels: ["old", "new"] }],
  ])("range %s", (text, value) => expect(readRange(text)).toEqual({ ok: true, value }));
  it.each(["68 to 52", "5 to 5", "only", "", "a, A"])("range “%s” is refused", (text) =>
    expect(readRange(text).ok).toBe(false),
  );
  it("goals read and write", () => {
    expect(readGoal("lower", "24 to 14")).toEqual({ ok: true, value: { aim: "lower", low: 14, high: 24 } });
    const within = readGoal("within", "0,35 to 0,6 aim 0,45");
    expect(within.ok && goalText(within.value)).toBe("0.35 to 0.6 aim 0.45");
    expect(readGoal("hit", "1 to 2 aim 3").ok).toBe(false);
    expect(readGoal("raise", "about 5").ok).toBe(false);
  });
  it("hard limits may be empty", () =>
    expect([readSpan(""), readSpan("48 to 72")]).toEqual([
      { ok: true, value: undefined },
      { ok: true, value: [48, 72] },
    ]));
  it("regions as sentences", () => {
    expect(readRegion(wool, "Bowl temperature + 4 × Detergent ≤ 96")).toEqual({
      ok: true,
      value: { kind: "limit", limit: { terms: { temp: 1, dose: 4 }, at: "most", bound: 96 } },
    });
    expect(readRegion(wool, "A - 0.5 B >= 40")).toMatchObject({
      value: { limit: { terms: { temp: 1, dose: -0.5 }, at: "least", bound: 40 } },
    });
    expect(readRegion(wool, "Wool lot is lowland and Bowl temperature is 64 to 68")).toEqual({
      ok: true,
      value: { kind: "forbidden", forbidden: { lot: ["lowland"], temp: { from: 64, to: 68 } } },
    });
    for (const bad of ["Wool lot + 1 ≤ 3", "nothing", "Wool lot is blue", "Detergent ≤ much"])
      expect(readRegion(wool, bad).ok).toBe(false);
  });
  it("ids are made from names and are never taken twice", () =>
    expect([freshId("Bowl temperature °C", new Set()), freshId("Feed", new Set(["feed"]))]).toEqual([
      "bowl-temperature-c",
      "feed-2",
    ]));
});

describe("edits", () => {
  const study = withTrials(plainStudy(2), corners(2), [1, 2, 3, 4]);
  const edits: Edit[] = [
    edit(study, ["title"], "new"),
    edit(study, ["factors", "a", "unit"], "°C"),
    edit(study, ["trials", "t2", "results", "y"], 9),
    edit(study, ["trials", "t3"], null),
    { path: ["factors"], from: ["a", "b"], to: ["b", "a"] },
  ];
  it("apply, and their inverse takes everything back to where it stood", () => {
    const after = applyEdits(study, edits);
    expect([after.title, after.factors.map((f) => f.id), after.trials.map((t) => t.id)]).toEqual([
      "new",
      ["b", "a"],
      ["t1", "t2", "t4"],
    ]);
    expect(sameData(parseStudy(applyEdits(after, inverseEdits(study, edits))), study)).toBe(true);
  });
  it("a setting as it was run, taken back, leaves no trace", () => {
    const made = edit(study, ["trials", "t1", "asRun", "a"], 0.9);
    const entered = applyEdits(study, [made]);
    expect(entered.trials[0].asRun).toEqual({ a: 0.9 });
    expect(applyEdits(entered, inverseEdits(study, [made]))).toEqual(study);
    // Results stay a bag, empty or not.
    const cleared = parseStudy(applyEdits(study, [edit(study, ["trials", "t1", "results", "y"], null)]));
    expect(cleared.trials[0].results).toEqual({});
  });
  it("refuse what changed elsewhere and places that are none", () => {
    expect(() => applyEdits(study, [{ path: ["title"], from: "other", to: "x" }])).toThrow(
      expect.objectContaining({ code: "edit-conflict" }),
    );
    expect(() => applyEdits(study, [{ path: ["trials", "t9", "note"], from: null, to: "x" }])).toThrow(
      expect.objectContaining({ code: "edit-conflict" }),
    );
    expect(() => applyEdits(study, [{ path: ["format"], from: "trialmoor-study", to: "x" }])).toThrow(
      expect.objectContaining({ code: "bad-edit" }),
    );
  });
});

describe("any ledger", () => {
  const text = fc.string({
    unit: fc.constantFrom("a", "Ä", " ", ",", ";", '"', "'", "\t", "=", "+", "-", "@", "0", "."),
    maxLength: 12,
  });
  const value = fc.oneof(
    fc.constant(null),
    fc.double({ noNaN: true, noDefaultInfinity: true, min: -1e9, max: 1e9 }).map((v) => v + 0),
  );
  it("goes out as CSV and comes back with every result, repeat, as-run setting and note", () =>
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            y: value,
            r: fc.array(value, { minLength: 2, maxLength: 2 }),
            note: text,
            asRun: fc.option(fc.integer({ min: -9, max: 9 })),
          }),
          {
            minLength: 4,
            maxLength: 4,
          },
        ),
        (rows) => {
          const base = plainStudy(2, { responses: [{ id: "y" }, { id: "z" }] });
          const made = withTrials(base, corners(2));
          const full = parseStudy({
            ...made,
            trials: made.trials.map((t, i) => {
              const { y, r, note, asRun } = rows[i];
              return {
                ...t,
                results: { y, z: r },
                note: note.trim(),
                ...(asRun === null ? {} : { asRun: { a: asRun / 10 } }),
              };
            }),
          });
          // Into a ledger that has none of it yet.
          const back = previewImport(made, ledgerCsv(full));
          expect(back.problems).toEqual([]);
          const of = <T extends { trial: string }>(list: T[], id: string): T[] => list.filter((v) => v.trial === id);
          const ended = (r: unknown): unknown[] => {
            const list = Array.isArray(r) ? [...r] : [r];
            while (list.length > 0 && list[list.length - 1] === null) list.pop();
            return list;
          };
          for (const t of full.trials) {
            const values = of(back.values, t.id);
            for (const id of ["y", "z"])
              expect(ended(values.find((v) => v.response === id)?.after ?? null)).toEqual(ended(t.results[id]));
            const set = of(back.settings, t.id).map((v) => [v.to, v.id, v.after]);
            expect(set).toEqual(t.asRun && t.asRun.a !== t.settings.a ? [["asRun", "a", t.asRun.a]] : []);
          }
          // The same text into the full ledger changes nothing.
          expect(previewImport(full, ledgerCsv(full))).toMatchObject({
            values: [],
            settings: [],
            notes: [],
            problems: [],
          });
        },
      ),
      { numRuns: 60 },
    ));
});

describe("what was really set and measured, from a sheet", () => {
  const study = parseStudy({
    ...plainStudy(2, { covariates: [{ id: "damp", name: "Damp" }] }),
    waves: [{ id: "w" }],
    trials: [
      { id: "t1", wave: "w", settings: { a: -1, b: 1 } },
      { id: "t2", wave: "w", settings: { a: 1, b: 1 }, asRun: { a: 0.9 } },
    ],
  });
  it("is taken, empty cells left as they were, set as planned left unsaid", () =>
    expect(previewImport(study, "order,a (as run),damp,y\n1,-1,41.5,\n2,0.8,,3\n")).toMatchObject({
      settings: [
        { trial: "t1", to: "covariates", id: "damp", before: null, after: 41.5 },
        { trial: "t2", to: "asRun", id: "a", before: 0.9, after: 0.8 },
      ],
      values: [{ trial: "t2", response: "y", after: 3 }],
      problems: [],
    }));
  it("needs no result beside it; text for a number is said and left", () => {
    const read = previewImport(study, "order,a (as run)\n1,warm\n2,1\n");
    expect(read.settings).toMatchObject([{ trial: "t2", before: 0.9, after: 1 }]);
    expect(read.problems).toEqual([
      { row: 2, said: { code: "cell-no-setting", values: { row: 2, text: "warm", factor: "a" } } },
    ]);
  });
});
