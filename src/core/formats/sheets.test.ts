import { describe, expect, it } from "vitest";
import { makePlan } from "../plans/make-plan";
import type { Study, StudyInput } from "../study/schema";
import { parseStudy } from "../study/validate";
import { plainStudy, refusal } from "../testing/studies";
import { messageText } from "../words/answers";
import { ledgerCsv, planCsv } from "./csv";
import { waveFromSheet } from "./foreign-wave";
import { previewImport } from "./sheet-import";

const study = (more: Partial<StudyInput> = {}): Study =>
  parseStudy({
    format: "trialmoor-study",
    version: 1,
    title: "t",
    factors: [
      { id: "temp", name: "Bowl temperature", unit: "°C", kind: "continuous", low: 50, high: 70 },
      { id: "lot", name: "Wool lot", kind: "categorical", levels: ["hill", "lowland"] },
      { id: "old", name: "Old", kind: "continuous", low: 0, high: 1, retired: 0.25 },
    ],
    covariates: [{ id: "hum", name: "Hall humidity", unit: "%" }],
    responses: [{ id: "grease", name: "Residual grease", unit: "%" }, { id: "white" }],
    ...more,
  });

describe("trials run elsewhere", () => {
  it("become a wave: columns by id or name, units ignored, repeats gathered, retired factors held", () => {
    const { wave, trials, untaken, problems, withResults } = waveFromSheet(
      study(),
      "Bowl temperature (°C),Wool lot,grease.1,grease.2,white,Hall humidity,note,Operator\n55,hill,0.5,0.52,60,61,first,Ada\n75,lowland,,,,,,Bo\n",
      "Old trials",
    );
    expect(wave).toMatchObject({ id: "w1", name: "Old trials", plan: { family: "own" } });
    expect(untaken).toEqual([{ column: "Operator", why: "it names nothing of this study" }]);
    expect(problems).toEqual([]);
    expect(withResults).toBe(1);
    expect(trials[0]).toMatchObject({
      id: "t1",
      order: 1,
      state: "done",
      note: "first",
      settings: { temp: 55, lot: "hill", old: 0.25 },
      covariates: { hum: 61 },
      results: { grease: [0.5, 0.52], white: 60 },
    });
    // Outside the range, as it was run; waiting, since nothing was measured.
    expect(trials[1]).toMatchObject({ state: "planned", settings: { temp: 75, lot: "lowland" }, results: {} });
    expect(() => parseStudy({ ...study(), waves: [wave], trials })).not.toThrow();
  });

  it("go on where the ledger ends, and never take an id again", () => {
    const had = study({
      waves: [{ id: "w1" }],
      trials: [{ id: "t1", wave: "w1", order: 9, settings: { temp: 60, lot: "hill" } }],
    });
    const { wave, trials } = waveFromSheet(had, "temp\tlot\n60\thill\n61\thill", "More");
    expect([wave.id, ...trials.map((t) => t.id), ...trials.map((t) => t.order)]).toEqual(["w2", "t2", "t3", 10, 11]);
  });

  it("leave rows out that cannot be read, each with its reason", () => {
    const { trials, problems } = waveFromSheet(
      study(),
      "temp;lot;grease\n55;hill;0,5\nhot;hill;0,6\n56;moor;0,6\n57;hill;wet",
      "x",
    );
    expect(trials).toHaveLength(1);
    expect(trials[0].results.grease).toBe(0.5);
    expect(problems.map((p) => messageText("rows", p.said))).toEqual([
      "Row 3: “hot” is not a setting of Bowl temperature; the row is left out.",
      "Row 4: “moor” is not a setting of Wool lot; the row is left out.",
      "Row 5: “wet” is not a number; the row is left out.",
    ]);
  });

  it("are refused whole when a factor has no column or no row can be read", () => {
    expect(refusal(() => waveFromSheet(study(), "temp,grease\n1,2", "x"))).toContain("no column for Wool lot");
    expect(refusal(() => waveFromSheet(study(), "temp,lot\nhot,hill", "x"))).toContain("“hot” is not a setting");
    expect(refusal(() => waveFromSheet(study(), "temp,lot", "x"))).toContain("no trials");
    expect(refusal(() => waveFromSheet(study(), "", "x"))).toContain("no text");
  });
});

describe("columns of one meaning", () => {
  const had = () =>
    study({ waves: [{ id: "w1" }], trials: [{ id: "t1", wave: "w1", order: 1, settings: { temp: 60, lot: "hill" } }] });
  it("are refused with the way out, not written over each other", () => {
    expect(refusal(() => previewImport(had(), "order,note,Note,grease\n1,a,b,0.5"))).toBe(
      "The heading “note” and “Note” mean the same (columns 2 and 3), so one column would be lost. Rename one of them, or take it out of the sheet; nothing was taken.",
    );
  });
  it("are refused for settings, trial numbers and notes too, in both kinds of sheet", () => {
    expect(refusal(() => previewImport(had(), "order,note,grease,note\n1,a,0.5,b"))).toContain("Rename one of them");
    expect(refusal(() => previewImport(had(), "order,run,grease\n1,1,0.5"))).toContain(
      "“order” and “run” mean the same",
    );
    expect(refusal(() => waveFromSheet(study(), "temp,lot,temp\n55,hill,56", "x"))).toContain("“temp” stands twice");
  });
  it("may repeat where nothing is taken from them, and each that is not taken is named", () => {
    const { untaken, values } = previewImport(had(), "order\tstd\tgrease\tOperator\tOperator\t\n1\t4\t0.5\tA\tB\tx");
    expect(untaken.map((u) => u.column)).toEqual(["std", "Operator", "Operator", "column 6 (no heading)"]);
    expect(values).toHaveLength(1);
    expect(
      waveFromSheet(study(), "order,temp,lot,temp (as run),grease\n1,55,hill,54,0.5", "x").untaken.map((u) => u.column),
    ).toEqual(["order", "temp (as run)"]);
  });
});

describe("repeats are never lost", () => {
  const had = (more: Partial<StudyInput> = {}) =>
    study({
      waves: [{ id: "w1" }],
      trials: [60, 62, 64].map((temp, i) => ({
        id: `t${i + 1}`,
        wave: "w1",
        order: i + 1,
        settings: { temp, lot: "hill" },
      })),
      ...more,
    });
  it.each([
    ["grease 1", "grease 2", "grease 3"],
    ["grease_1", "grease_2", "grease_3"],
    ["grease (1)", "grease (2)", "grease (3)"],
    ["grease.1", "grease.2", "grease.3"],
    ["Residual grease 1 (%)", "Residual grease 2 (%)", "Residual grease 3 (%)"],
    ["grease", "grease", "grease"],
    ["grease", "grease.1", "grease.2"],
    ["Residual grease (%)", "grease", "Residual grease"],
  ])("columns headed %s, %s, %s are three repeats, and it is said", (...headings) => {
    const { values, repeats } = previewImport(had(), `order,${headings.join(",")}\n1,0.5,0.6,0.7\n2,0.4,,0.8`);
    expect(values.map((v) => v.after)).toEqual([
      [0.5, 0.6, 0.7],
      [0.4, null, 0.8],
    ]);
    expect(repeats).toEqual([{ response: "grease", columns: headings }]);
    expect(
      waveFromSheet(study(), `temp,lot,${headings.join(",")}\n60,hill,0.5,0.6,0.7`, "x").trials[0].results,
    ).toEqual({
      grease: [0.5, 0.6, 0.7],
    });
  });
  it("numbered columns go by their numbers in any order; a name that ends in a number is no repeat", () => {
    expect(previewImport(had(), "order,grease 2,grease 1\n1,0.6,0.5").values[0].after).toEqual([0.5, 0.6]);
    const line = had({ responses: [{ id: "l2", name: "Line 2" }] });
    const { values, untaken } = previewImport(line, "order,Line 2,Line 3\n1,4,5");
    expect([values.map((v) => v.after), untaken.map((u) => u.column)]).toEqual([[4], ["Line 3"]]);
  });
  it("several values in a cell are repeats, with columns beside them too", () => {
    const read = (text: string): unknown => previewImport(had(), text).values.map((v) => v.after);
    expect(read("order\tgrease\n1\t0.5 0.6 0.7\n2\t0.5; 0.6\n3\t0.5/0.6")).toEqual([
      [0.5, 0.6, 0.7],
      [0.5, 0.6],
      [0.5, 0.6],
    ]);
    expect(read("order\tgrease\tgrease\n1\t0,5 0,6\t0,7")).toEqual([[0.5, 0.6, 0.7]]);
    expect(waveFromSheet(study(), "temp\tlot\tgrease\n60\thill\t0.5 0.6", "x").trials[0].results.grease).toEqual([
      0.5, 0.6,
    ]);
  });
  it("what may be one number or several is asked for, not guessed: 600610 was read once", () => {
    const { values, problems } = previewImport(had(), "order\tgrease\n1\t600 610\n2\t60 61\n3\t12\u00a0400");
    expect(values.map((v) => [v.order, v.after])).toEqual([
      [2, [60, 61]],
      [3, 12400],
    ]);
    expect(problems.map((p) => messageText("rows", p.said))).toEqual([
      "Row 2: “600 610” in Residual grease may be one number or several; write it without spaces, or with semicolons between. That cell is left as it was.",
    ]);
  });
  it("a result of which one repeat cannot be read is left as it stands, whole", () => {
    const { values, problems } = previewImport(had(), "order,grease,grease,white\n1,0.5,wet,60\n2,0.4,0.6,61");
    expect(values.map((v) => [v.order, v.response, v.after])).toEqual([
      [1, "white", 60],
      [2, "grease", [0.4, 0.6]],
      [2, "white", 61],
    ]);
    expect(problems.map((p) => messageText("rows", p.said))).toEqual([
      "Row 2: “wet” in Residual grease is not a number; that cell is left as it was.",
    ]);
  });
  it("several rows of a trial are counted and left out, or become its repeats where that is said", () => {
    const long = "order,grease,temp (as run),note\n1,0.5,59,wet\n1,0.6,59,\n2,0.4,,\n1,0.7,58,late";
    const asked = previewImport(had(), long);
    expect([asked.again, asked.values.map((v) => v.after)]).toEqual([2, [0.5, 0.4]]);
    expect(asked.problems.map((p) => p.said.code)).toEqual(["row-twice", "row-twice"]);
    const taken = previewImport(had(), long, { rowsAreRepeats: true });
    expect(taken.values.map((v) => v.after)).toEqual([[0.5, 0.6, 0.7], 0.4]);
    expect(taken.settings.map((s) => s.after)).toEqual([59]);
    expect(taken.notes.map((n) => n.after)).toEqual(["wet; late"]);
    expect(taken.problems.map((p) => messageText("rows", p.said))).toEqual([
      "Row 5: an earlier row of trial 1 says 59 for Bowl temperature, this one 58; the first is kept.",
    ]);
  });
  it("by settings, only where one trial has them: else it cannot be told whose they are", () => {
    const long = "temp,lot,grease\n60,hill,0.5\n60,hill,0.6";
    expect(previewImport(had(), long, { rowsAreRepeats: true }).values.map((v) => v.after)).toEqual([[0.5, 0.6]]);
    const twice = had({
      trials: ["t1", "t2"].map((id, i) => ({ id, wave: "w1", order: i + 1, settings: { temp: 60, lot: "hill" } })),
    });
    const read = previewImport(twice, `${long}\n60,hill,0.7`, { rowsAreRepeats: true });
    expect([read.values.map((v) => v.after), read.problems.map((p) => p.said.code)]).toEqual([
      [0.5, 0.6],
      ["row-no-place"],
    ]);
  });
});

describe("a plan as a run sheet", () => {
  it("lists its own trials in run order and nothing of the ledger", () => {
    const s = plainStudy(3);
    const plan = makePlan(s, { family: "fraction", trials: 4, centre: 1 });
    const lines = planCsv(s, plan).trim().split(/\r?\n/);
    expect(lines[0]).toBe("order,standard,wave,kind,state,a,b,c,y,note,trial id");
    expect(lines).toHaveLength(6);
    expect(lines.slice(1).map((l) => Number(l.split(",")[0]))).toEqual([1, 2, 3, 4, 5]);
    expect(ledgerCsv(s).trim().split(/\r?\n/)).toHaveLength(1);
  });
});
