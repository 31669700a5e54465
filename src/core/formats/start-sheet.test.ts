import { describe, expect, it } from "vitest";
import { inverseEdits } from "../study/edit";
import { reviseStudy } from "../study/revise";
import { blankStudy } from "../study/validate";
import { refusal } from "../testing/studies";
import { type Role, startFrom, startSheet, stepOf } from "./start-sheet";

/** Two factors with a coded twin of one, an order, three repeats, a constant, an empty column and remarks. */
const SHEET = [
  "Run;Heat (°C);Heat coded;Line;Height 1 (mm);Height 2 (mm);Height 3 (mm);Mass [g];Shift;Empty;Remark",
  "3;60;1;east;5,1;5,3;5,2;12,4;day;;",
  "1;40;-1;east;4,0;4,2;4,1;10,9;day;;first of the day",
  "2;60;1;west;5,6;5,5;5,4;13,0;day;;",
  "4;40;-1;west;4,4;;4,5;11,7;day;;stopped once",
  "5;50;0;east;4,6;4,7;4,5;11,9;day;;",
  "6;50;0;west;4,9;5,0;5,1;12,2;day;;",
].join("\n");

describe("a sheet of shares", () => {
  const lines = [
    "Run,Heat,Rejects,Spoilt 1,Spoilt 2",
    "1,40,3/50,1/20,0/20",
    "2,60,5 of 48,2/20,3/20",
    "3,50,0/50,0/20,1/20",
  ];
  it("is read as so many of so many, never as two repeats; columns of one response add up", () => {
    const sheet = startSheet(lines.join("\n"));
    expect(sheet.columns.map((c) => [c.role, c.of])).toEqual([
      ["order", undefined],
      ["response", undefined],
      ["response", 50],
      ["response", 20],
      ["response", 20],
    ]);
    const blank = blankStudy("Rejects");
    const columns = sheet.columns.map((c) => (c.name === "Heat" ? { ...c, role: "factor" as Role } : c));
    const made = reviseStudy(blank, startFrom(blank, { ...sheet, columns }, "From a sheet").edits);
    expect(made.responses.map((r) => [r.name, r.measured, r.of])).toEqual([
      ["Rejects", "share", 50],
      ["Spoilt", "share", 20],
    ]);
    expect(made.trials.map((t) => t.results)).toEqual([
      { rejects: { events: 3, of: 50 }, spoilt: { events: 1, of: 40 } },
      { rejects: { events: 5, of: 48 }, spoilt: { events: 5, of: 40 } },
      { rejects: { events: 0, of: 50 }, spoilt: { events: 1, of: 40 } },
    ]);
  });
  it("adds up several rows of one trial where that is asked", () => {
    const sheet = startSheet("Run,Heat,Rejects\n1,40,3/50\n1,40,2/50\n2,60,5/50\n2,60,4/50");
    const blank = blankStudy("Rejects");
    const columns = sheet.columns.map((c, i) => ({ ...c, role: (["order", "factor", "response"] as Role[])[i] }));
    const { edits } = startFrom(blank, { ...sheet, columns }, "From a sheet", { rowsAreRepeats: true });
    expect(reviseStudy(blank, edits).trials.map((t) => t.results)).toEqual([
      { rejects: { events: 5, of: 100 } },
      { rejects: { events: 9, of: 100 } },
    ]);
  });
  it("takes pairs that are no counts for repeats still", () => {
    expect(startSheet("Run,Height\n1,5.1/5.3\n2,4.0/4.2\n3,4/2").columns[1]).toMatchObject({ role: "response" });
    expect(startSheet("Run,Height\n1,5.1/5.3\n2,4.0/4.2\n3,4/2").columns[1].of).toBeUndefined();
  });
});

describe("a study begins with a sheet", () => {
  it("guesses what every column is, with units, and leaves out what tells nothing", () => {
    const { columns, decimal } = startSheet(SHEET);
    expect(decimal).toBe(",");
    expect(columns.map((c) => [c.name, c.unit, c.role, c.repeat])).toEqual([
      ["Run", "", "order", 0],
      ["Heat", "°C", "factor", 0],
      ["Heat coded", "", "left-out", 0],
      ["Line", "", "factor", 0],
      ["Height", "mm", "response", 1],
      ["Height", "mm", "response", 2],
      ["Height", "mm", "response", 3],
      ["Mass", "g", "response", 0],
      ["Shift", "", "left-out", 0],
      ["Empty", "", "left-out", 0],
      ["Remark", "", "note", 0],
    ]);
    expect(columns.flatMap((c) => (c.why ? [c.why] : []))).toEqual([
      { code: "column-twin", values: { of: "Heat" } },
      { code: "column-constant", values: { value: "day" } },
      { code: "column-empty", values: {} },
    ]);
  });
  it("makes factors, responses and a wave in the order run, repeats together and none lost", () => {
    const blank = blankStudy("From a sheet");
    const start = startFrom(blank, startSheet(SHEET), "Sheet");
    expect(start).toMatchObject({ factors: 2, responses: 2, trials: 6, withResults: 6, problems: [] });
    const study = reviseStudy(blank, start.edits);
    expect(study.factors).toMatchObject([
      { name: "Heat", unit: "°C", kind: "continuous", low: 40, high: 60, step: 1, letter: "A" },
      { name: "Line", kind: "categorical", levels: ["east", "west"], letter: "B" },
    ]);
    expect(study.responses.map((r) => [r.name, r.unit])).toEqual([
      ["Height", "mm"],
      ["Mass", "g"],
    ]);
    expect(study.trials.map((t) => [t.order, t.settings.heat, t.settings.line, t.results.height])).toEqual([
      [1, 40, "east", [4, 4.2, 4.1]],
      [2, 60, "west", [5.6, 5.5, 5.4]],
      [3, 60, "east", [5.1, 5.3, 5.2]],
      [4, 40, "west", [4.4, null, 4.5]],
      [5, 50, "east", [4.6, 4.7, 4.5]],
      [6, 50, "west", [4.9, 5, 5.1]],
    ]);
    expect(study.trials[0].note).toBe("first of the day");
  });
  it.each([
    ["Height_1", "Height_2"],
    ["Height.1", "Height.2"],
    ["Height (1)", "Height (2)"],
    ["Height", "Height"],
  ])("%s and %s are repeats of one response", (one, two) => {
    const sheet = startSheet(`Heat,${one},${two}\n1,4.1,4.2\n2,5.1,5.3\n1,4.4,4.6\n2,5.5,5.7`);
    const blank = blankStudy("Repeats");
    const study = reviseStudy(blank, startFrom(blank, sheet, "Sheet").edits);
    expect(study.responses.map((r) => r.name)).toEqual(["Height"]);
    expect(study.trials[0].results).toEqual({ height: [4.1, 4.2] });
  });
  it("several values in a cell are repeats too", () => {
    const sheet = startSheet("Heat\tHeight\n1\t4.1 4.2\n2\t5.1 5.3\n1\t4.4\n2\t5.5 5.7");
    expect(sheet.columns.map((c) => c.role)).toEqual(["factor", "response"]);
    const blank = blankStudy("Cells");
    const study = reviseStudy(blank, startFrom(blank, sheet, "Sheet").edits);
    expect(study.trials.map((t) => t.results.height)).toEqual([[4.1, 4.2], [5.1, 5.3], 4.4, [5.5, 5.7]]);
  });
  it("a number behind a name that stands alone belongs to the name", () =>
    expect(startSheet("Heat,Line 2 (mm)\n1,4.1\n2,5.1\n1,4.4\n2,5.5").columns[1]).toMatchObject({
      name: "Line 2",
      unit: "mm",
      role: "response",
      repeat: 0,
    }));
  it("does what is said of a column in place of what was guessed", () => {
    const sheet = startSheet("Heat,Damp,Yield\n1,41,7.1\n2,42,8.3\n1,43,7.0\n2,44,8.8");
    expect(sheet.columns.map((c) => c.role)).toEqual(["factor", "response", "response"]);
    sheet.columns[1].role = "covariate";
    const blank = blankStudy("Said");
    const study = reviseStudy(blank, startFrom(blank, sheet, "Sheet").edits);
    expect(study.covariates.map((c) => c.name)).toEqual(["Damp"]);
    expect(study.trials[2].covariates).toEqual({ damp: 43 });
  });
  it("a word among numbers leaves its row out and no column; undone, nothing is left", () => {
    const blank = blankStudy("Odd");
    const sheet = startSheet("Heat,Height 1,Height 2\n1,4.1,4.2\n2,5.1,broke\n1,4.4,4.6\n2,5.5,5.7\n1,4.0,4.2");
    expect(sheet.columns.map((c) => [c.role, c.repeat])).toEqual([
      ["factor", 0],
      ["response", 1],
      ["response", 2],
    ]);
    expect(sheet.columns[2].why).toEqual({ code: "column-odd", values: { cells: 1, such: "broke" } });
    const { edits, trials, problems } = startFrom(blank, sheet, "Sheet");
    expect([trials, problems.map((p) => p.said)]).toEqual([
      4,
      [{ code: "row-no-number", values: { row: 3, text: "broke" } }],
    ]);
    const begun = reviseStudy(blank, edits);
    expect(reviseStudy(begun, inverseEdits(blank, edits))).toEqual(blank);
  });
  it("a factor without a range, and a sheet without rows, say what is wrong", () => {
    const blank = blankStudy("Wrong");
    const one = startSheet("Heat,Yield\n5,1\n5,2");
    one.columns[0].role = "factor" satisfies Role;
    expect(refusal(() => startFrom(blank, one, "Sheet"))).toMatch(/low \(5\) must be below high \(5\)/);
    expect(refusal(() => startFrom(blank, startSheet("Heat,Yield"), "Sheet"))).toMatch(/\.$/);
  });
});

describe("steps that settings tell", () => {
  it.each([
    [[52, 60, 68], 1],
    [[450, 600, 750], 10],
    [[4, 7.5, 10], 0.5],
    [[0.25, 1.5, 3], 0.05],
    [[100, 200, 300], 10],
    [[0, 5000, 10000], 1000],
    [[-1, 0, 1], undefined],
    [[-1.682, -1, 0, 1, 1.682], undefined],
  ])("%j: %s", (numbers, step) => {
    expect(stepOf(numbers)).toBe(step);
  });
});

describe("several rows of a trial", () => {
  const LONG = [
    "Trial,Heat,Line,Height,Remark",
    "1,40,east,4.0,a",
    "1,40,east,4.2,",
    "2,60,east,5.1,",
    "2,60,east,5.3,b",
    "3,40,west,,",
    "3,40,west,4.6,",
    "4,60,west,5.6,",
    "4,61,west,5.5,",
  ].join("\n");
  it("are seen by their trial number, and become its repeats where that is said", () => {
    const sheet = startSheet(LONG);
    expect(sheet.columns.map((c) => c.role)).toEqual(["order", "factor", "factor", "response", "note"]);
    expect(sheet.again).toEqual({ rows: 8, trials: 4 });
    const blank = blankStudy("Long");
    const { edits, trials, problems } = startFrom(blank, sheet, "Long", { rowsAreRepeats: true });
    expect(trials).toBe(4);
    // The last row says another heat than the first of its trial.
    expect(problems).toEqual([{ row: 9, said: { code: "row-other-settings", values: { row: 9, order: 4 } } }]);
    const made = reviseStudy(blank, edits).trials;
    expect(made.map((t) => Object.values(t.results)[0])).toEqual([[4, 4.2], [5.1, 5.3], [null, 4.6], 5.6]);
    expect(made.map((t) => t.note)).toEqual(["a", "b", "", ""]);
  });
  it("are trials of their own unless it is said", () => {
    expect(startFrom(blankStudy("Long"), startSheet(LONG), "Long").trials).toBe(8);
  });
});

describe("a sheet as a laboratory leaves it", () => {
  /** A title and merged headings above, a German number of the trial, “n/a”, one decimal typed the other way. */
  const lines = [
    "Scouring, week 12;;;;;",
    "Settings;;;Results;;",
    "Lfd. Nr;Heat;Dose;White #1;White #2;Ash",
    "1;40;2;5,10;5,32;1,1",
    "2;60;2;4.72;4,81;n/a",
    "3;40;4;6,03;6,11;1,4",
    "4;60;4;5,55;5,61;1,2",
  ];
  it("finds its headings below what stands above them, its order, its repeats and all its numbers", () => {
    const sheet = startSheet(lines.join("\n"));
    expect([sheet.above, sheet.decimal]).toEqual([2, ","]);
    expect(sheet.columns.map((c) => [c.name, c.role, c.repeat])).toEqual([
      ["Lfd. Nr", "order", 0],
      ["Heat", "factor", 0],
      ["Dose", "factor", 0],
      ["White", "response", 1],
      ["White", "response", 2],
      ["Ash", "response", 0],
    ]);
    const blank = blankStudy("Scouring");
    const start = startFrom(blank, sheet, "From a sheet");
    expect(start.problems).toEqual([]);
    expect(reviseStudy(blank, start.edits).trials.map((t) => t.results)).toEqual([
      { white: [5.1, 5.32], ash: 1.1 },
      { white: [4.72, 4.81] },
      { white: [6.03, 6.11], ash: 1.4 },
      { white: [5.55, 5.61], ash: 1.2 },
    ]);
  });
  it("names rows by where they stand in the sheet", () => {
    const bad = [...lines.slice(0, 5), "3;warm;4;6,03;6,11;1,4", lines[6], "5;40;3;1;1;1", "6;60;3;1;2;1"];
    const sheet = startSheet(bad.join("\n"));
    const heat = sheet.columns.map((c) => (c.name === "Heat" ? { ...c, role: "factor" as Role } : c));
    const blank = blankStudy("Scouring");
    expect(startFrom(blank, { ...sheet, columns: heat }, "w").problems.map((p) => p.row)).toEqual([6]);
  });
  it("among decimal points “4,72” is a number and “1,234” is not guessed at", () => {
    const { columns } = startSheet('Run,Heat,y\n1,40,4.61\n2,60,"4,72"\n3,40,4.9\n4,60,5.1');
    expect(columns[2].numbers).toEqual([4.61, 4.72, 4.9, 5.1]);
    const odd = startSheet('Run,Heat,y\n1,40,4.61\n2,60,"1,234"\n3,40,4.9\n4,60,5.1').columns[2];
    expect(odd.why).toEqual({ code: "column-odd", values: { cells: 1, such: "1,234" } });
  });
});
