import { describe, expect, it } from "vitest";
import { makePlan } from "../plans/make-plan";
import type { Study, StudyInput } from "../study/schema";
import { parseStudy } from "../study/validate";
import { plainStudy, refusal } from "../testing/studies";
import { rowOf } from "../words/answers";
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
    expect(problems.map((p) => rowOf(p.said))).toEqual([
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
  it.each([
    ["order,grease,grease\n1,0.5,0.6", "“grease” stands twice (columns 2 and 3)"],
    [
      "order,Residual grease (%),grease\n1,0.5,0.6",
      "“Residual grease (%)” and “grease” mean the same (columns 2 and 3)",
    ],
    ["order,grease,grease.1\n1,0.5,0.6", "“grease” and “grease.1” mean the same"],
  ])("are refused with the way out, not written over each other: %s", (text, said) => {
    const sentence = refusal(() => previewImport(had(), text));
    expect(sentence).toContain(said);
    expect(sentence).toContain("Head repeats of one trial “Residual grease.1”, “Residual grease.2”");
  });
  it("are refused for settings, trial numbers and notes too, in both kinds of sheet", () => {
    expect(refusal(() => previewImport(had(), "order,note,grease,note\n1,a,0.5,b"))).toContain("Rename one of them");
    expect(refusal(() => previewImport(had(), "order,run,grease\n1,1,0.5"))).toContain(
      "“order” and “run” mean the same",
    );
    expect(refusal(() => waveFromSheet(study(), "temp,lot,white,white\n55,hill,1,2", "x"))).toContain(
      "“white” stands twice",
    );
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
