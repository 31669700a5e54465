import { describe, expect, it } from "vitest";
import { readAnswer } from "../programs/answer";
import { applyEdits } from "../study/edit";
import { enterResults } from "../study/results";
import type { Study, StudyInput } from "../study/schema";
import { parseStudy } from "../study/validate";
import { messageText } from "../words/answers";
import { ledgerCsv, ledgerTable } from "./csv";
import { importEdits, previewImport } from "./sheet-import";
import { readStudyFile, writeStudyFile } from "./study-file";
import { readWorkbook } from "./workbook";
import { writeWorkbook } from "./workbook-out";

const input: StudyInput = {
  format: "trialmoor-study",
  version: 1,
  title: "Buttons",
  factors: [{ id: "heat", kind: "continuous", low: 150, high: 170 }],
  responses: [
    { id: "rejects", name: "Rejects", measured: "share", of: 50 },
    { id: "pits", name: "Pits", measured: "count", unit: "dm²" },
    { id: "gloss", name: "Gloss" },
  ],
  waves: [{ id: "w1" }],
  trials: [
    {
      id: "t1",
      wave: "w1",
      settings: { heat: 150 },
      state: "done",
      results: { rejects: 3, pits: { events: 4, of: 2.5 } },
    },
    { id: "t2", wave: "w1", settings: { heat: 170 }, state: "done", results: { rejects: { events: 5, of: 48 } } },
    { id: "t3", wave: "w1", settings: { heat: 160 } },
  ],
};
const study = parseStudy(input);
const with_ = (more: Partial<StudyInput>): unknown => ({ ...input, ...more });
const results = (r: NonNullable<StudyInput["trials"]>[number]["results"]): unknown =>
  with_({ trials: [{ id: "t1", wave: "w1", settings: { heat: 150 }, results: r }] });
const response = (r: NonNullable<StudyInput["responses"]>[number]): unknown => with_({ responses: [r], trials: [] });

describe("a study file with shares and counts", () => {
  it("is read and written whole: a bare number is events of the usual size", () => {
    const again = readStudyFile(writeStudyFile(study));
    expect(again).toEqual(study);
    expect(again.trials[0].results.rejects).toBe(3);
  });
  it.each([
    [
      "more than there were",
      results({ rejects: { events: 51, of: 50 } }),
      /trials\[0\].results.rejects: Rejects: 51 of 50 is more/,
    ],
    ["a fraction of a piece", results({ rejects: 2.5 }), /fraction of a piece.*as 6 %/],
    ["no pieces", results({ rejects: { events: 0, of: 0 } }), /one whole piece or more, not on 0/],
    ["half a piece", results({ rejects: { events: 0, of: 10.5 } }), /one whole piece or more/],
    ["below nothing", results({ pits: { events: -1, of: 2 } }), /below 0/],
    ["no exposure", results({ pits: { events: 1, of: 0 } }), /exposure must be above 0/],
    ["an exposure that nobody said", results({ pits: 4 }), /on how much\? Type 4\/2\.5/],
    ["several values", results({ rejects: [3, 4] }), /several values.*add them up, as 5\/100/],
    ["a count where a value is measured", results({ gloss: { events: 3, of: 50 } }), /measured value/],
    ["a value that says on how many", response({ id: "y", of: 50 }), /“of” belongs to a share or a count/],
    [
      "limits past a share",
      response({ id: "y", measured: "share", of: 50, goal: { aim: "lower", low: 1, high: 6 } }),
      /between 0 and 1, as 0\.02 for 2 %/,
    ],
    [
      "a base below nothing",
      response({ id: "y", measured: "count", goal: { aim: "lower", low: -1, high: 6 } }),
      /must not be below 0/,
    ],
    [
      "a spread of a share",
      with_({
        trials: [],
        responses: [
          { id: "y", measured: "share" },
          { id: "s", spread: { of: "y", from: "repeats" } },
        ],
      }),
      /cannot be the spread/,
    ],
  ])("refuses %s in one sentence", (_, file, sentence) => {
    expect(() => parseStudy(file)).toThrow(sentence);
  });
});

describe("the ledger as a sheet", () => {
  it("has a column of events, and beside it of what they were counted on where that differs", () => {
    const { columns, rows } = ledgerTable(study);
    expect(columns.map((c) => c.id).slice(6, 11)).toEqual(["rejects", "rejects of", "pits", "pits of", "gloss"]);
    expect(rows.map((r) => r.slice(6, 10))).toEqual([
      [3, 50, 4, 2.5],
      [5, 48, null, null],
      [null, null, null, null],
    ]);
    const even = { ...study, trials: study.trials.map((t) => ({ ...t, results: { rejects: 2 } })) };
    expect(ledgerTable(even).columns.map((c) => c.id)).not.toContain("rejects of");
  });
  it("comes back as it went", () => {
    const empty: Study = { ...study, trials: study.trials.map((t) => ({ ...t, results: {} })) };
    const preview = previewImport(empty, ledgerCsv(study));
    expect(preview.problems).toEqual([]);
    const back = applyEdits(empty, importEdits(empty, preview));
    expect(back.trials.map((t) => t.results)).toEqual([
      { rejects: { events: 3, of: 50 }, pits: { events: 4, of: 2.5 } },
      { rejects: { events: 5, of: 48 } },
      {},
    ]);
    expect(previewImport(study, ledgerCsv(study)).values).toEqual([]);
  });
  it("takes 3/50, 3 of 50 and percentages, and leaves a cell that is no count with the reason", () => {
    const preview = previewImport(study, "order,Rejects,Pits\n1,4 of 50,5/2.5\n2,6 %,\n3,60/50,7\n");
    expect(preview.values.map((v) => [v.trial, v.response, v.after])).toEqual([
      ["t1", "rejects", { events: 4, of: 50 }],
      ["t1", "pits", { events: 5, of: 2.5 }],
      ["t2", "rejects", { events: 3, of: 50 }],
    ]);
    expect(preview.problems.map((p) => messageText("rows", p.said))).toEqual([
      expect.stringMatching(/^Row 4, Rejects: 60 of 50 is more than there were.*left as it was\.$/),
      expect.stringMatching(/^Row 4, Pits: 7 on how much\?/),
    ]);
  });
});

describe("the ledger in a workbook", () => {
  it("holds events and pieces as numbers, and is read back", async () => {
    const empty: Study = { ...study, trials: study.trials.map((t) => ({ ...t, results: {} })) };
    const bytes = await writeWorkbook(study);
    const { text } = await readWorkbook(bytes);
    const preview = previewImport(empty, text);
    expect(preview.problems).toEqual([]);
    expect(applyEdits(empty, importEdits(empty, preview)).trials.map((t) => t.results)).toEqual([
      { rejects: { events: 3, of: 50 }, pits: { events: 4, of: 2.5 } },
      { rejects: { events: 5, of: 48 } },
      {},
    ]);
  });
});

describe("what a program says of counts", () => {
  const said = (text: string) => readAnswer(study, text).results;
  it("is events alone, with their pieces, or as text", () => {
    expect(said('{"rejects": 3, "pits": {"events": 2, "of": 1.5}, "gloss": 7}')).toEqual({
      rejects: { events: 3, of: 50 },
      pits: { events: 2, of: 1.5 },
      gloss: 7,
    });
    expect(said("rejects=4/48\npits=2/1.5\ngloss=7")).toMatchObject({ rejects: { events: 4, of: 48 } });
  });
  it.each([
    ['{"rejects": [3, 4], "pits": "1/2", "gloss": 1}', /several values/],
    ['{"rejects": 51, "pits": "1/2", "gloss": 1}', /more than there were/],
    ["rejects=NaN\npits=1/2\ngloss=1", /not a count/],
    ['{"rejects": {"events": 1.5, "of": 50}, "pits": "1/2", "gloss": 1}', /fraction of a piece/],
  ])("is refused where it is none: %s", (text, sentence) => {
    expect(() => said(text)).toThrow(sentence);
  });
  it("is kept with its pieces, which a later change of the usual number does not touch", () => {
    const entered = applyEdits(study, enterResults(study, [{ trial: "t3", response: "rejects", value: 2 }]));
    const later = { ...entered, responses: entered.responses.map((r) => (r.id === "rejects" ? { ...r, of: 100 } : r)) };
    expect(later.trials[2].results.rejects).toEqual({ events: 2, of: 50 });
  });
});
