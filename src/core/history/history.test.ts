import { describe, expect, it } from "vitest";
import { applyEdits, type Edit, inverseEdits, rewind, sameData } from "../study/edit";
import { reviseStudy } from "../study/revise";
import type { Study, StudyInput } from "../study/schema";
import { parseStudy } from "../study/validate";
import { messageText } from "../words/answers";
import { standingText } from "../words/english/history";
import { changeOf, goneKey, locationOf, valueAt } from "./change";
import { differences } from "./differences";

const file: StudyInput = {
  format: "trialmoor-study",
  version: 1,
  title: "Drying",
  factors: [
    { id: "bowl", name: "Bowl temperature", unit: "°C", kind: "continuous", low: 52, high: 68 },
    { id: "dose", name: "Dose", unit: "g", kind: "continuous", low: 1, high: 3 },
    { id: "lot", name: "Lot", kind: "categorical", levels: ["hill", "lowland"] },
  ],
  responses: [
    { id: "moist", name: "Moisture", unit: "%" },
    { id: "cost", name: "Cost" },
  ],
  waves: [{ id: "w1", name: "East line" }],
  trials: Array.from({ length: 12 }, (_, i) => ({
    id: `t${i + 1}`,
    wave: "w1",
    order: i + 1,
    state: "done" as const,
    settings: { bowl: i % 2 ? 68 : 52, dose: 2, lot: i % 3 ? "hill" : "lowland" },
    results: { moist: 10 + i, cost: [1, 2] },
  })),
  models: [{ response: "moist", terms: [["bowl"], ["dose"]] }],
};
const study = parseStudy(file);
const changed = (change: (draft: StudyInput) => void): Study => {
  const draft = structuredClone(file);
  change(draft);
  return parseStudy(draft);
};
const trials = (s: StudyInput) => s.trials as NonNullable<StudyInput["trials"]>;

describe("differences between two states of a study", () => {
  const states: [string, (s: StudyInput) => void, string[]][] = [
    ["nothing", () => undefined, []],
    ["a result", (s) => Object.assign(trials(s)[3].results as object, { moist: 99 }), ["trials/t4/results/moist"]],
    ["a result taken out", (s) => delete trials(s)[3].results?.cost, ["trials/t4/results/cost"]],
    [
      "all results of a trial taken out",
      (s) => (trials(s)[3].results = {}),
      ["trials/t4/results/moist", "trials/t4/results/cost"],
    ],
    ["what was really set", (s) => (trials(s)[0].asRun = { bowl: 53 }), ["trials/t1/asRun/bowl"]],
    ["a range", (s) => Object.assign(s.factors?.[0] as object, { low: 50 }), ["factors/bowl/low"]],
    ["a title", (s) => (s.title = "Drying again"), ["title"]],
    ["a setpoint", (s) => (s.setpoint = { settings: { bowl: 60, dose: 2, lot: "hill" } }), ["setpoint"]],
    ["terms", (s) => (s.models = [{ response: "moist", terms: [["bowl"]] }]), ["models/moist/terms"]],
    [
      "two trials gone from within",
      (s) => (s.trials = trials(s).filter((t) => t.id !== "t3" && t.id !== "t7")),
      ["trials/t7", "trials/t3"],
    ],
    [
      "a trial put between, another gone",
      (s) => {
        s.trials = trials(s).filter((t) => t.id !== "t2");
        trials(s).splice(4, 0, { id: "new", wave: "w1", order: 40, settings: { bowl: 60, dose: 1, lot: "hill" } });
      },
      ["trials/t2", "trials/new"],
    ],
    ["another order", (s) => (s.factors = [...(s.factors ?? [])].reverse()), ["factors"]],
  ];
  it.each(states)("%s", (_, change, paths) => {
    const after = changed(change);
    const edits = differences(study, after);
    const letters = edits.filter((e) => e.path.at(-1) !== "letter" && e.path.at(-1) !== "standard");
    expect(letters.map((e) => e.path.join("/"))).toEqual(paths);
    // They make the one into the other, as a change would, and taken back give the first again, all in its place.
    expect(sameData(reviseStudy(study, edits), after)).toBe(true);
    expect(parseStudy(rewind(after, [edits]))).toEqual(study);
    expect(sameData(applyEdits(after, inverseEdits(study, edits)), study)).toBe(true);
  });
  it("any state of a row of changes comes back, whatever came, went and moved since", () => {
    const states = [study];
    const log: Edit[][] = [];
    for (const change of [...CHANGES, ...CHANGES, ...CHANGES]) {
      const now = states[states.length - 1];
      const draft = structuredClone(now) as StudyInput;
      change(draft);
      const after = parseStudy(draft);
      log.push(differences(now, after));
      states.push(after);
    }
    for (const [i, past] of states.entries())
      expect(parseStudy(rewind(states[states.length - 1], log.slice(i).reverse())), `state ${i}`).toEqual(past);
  });
  it("what an older log wrote down otherwise is taken back all the same", () => {
    const now = changed((s) => Object.assign(trials(s)[0].results as object, { moist: 3 }));
    // The log says that 2 was written; 3 stands.
    const back = rewind(now, [[{ path: ["trials", "t1", "results", "moist"], from: 10, to: 2 }]]);
    expect(parseStudy(back)).toEqual(study);
  });
});

/** Changes that can follow each other on any state. */
const CHANGES: ((s: StudyInput) => void)[] = [
  (s) => (s.title = `${s.title}!`),
  (s) => (s.trials = trials(s).slice(1)),
  (s) => (s.trials = [...trials(s).slice(2), ...trials(s).slice(0, 2)]),
  (s) => {
    const order = 1 + Math.max(...trials(s).map((t) => t.order ?? 0));
    trials(s).splice(1, 0, { ...trials(s)[0], id: `again${order}`, order, note: "again" });
  },
];

describe("changes in words", () => {
  it.each<[Pick<Edit, "path" | "from" | "to">, string]>([
    [
      { path: ["trials", "t12", "asRun", "bowl"], from: 68, to: 66 },
      "Bowl temperature of trial 12, as run: 68 → 66 °C",
    ],
    [{ path: ["trials", "t12", "results", "moist"], from: null, to: 4.2 }, "Moisture of trial 12: 4.2 %"],
    [{ path: ["trials", "t1", "results", "moist"], from: [1, -2], to: null }, "Moisture of trial 1: 1, −2 % taken out"],
    [{ path: ["trials", "t2", "note"], from: "", to: "wet" }, "Trial 2, note: wet"],
    [{ path: ["trials", "t2", "state"], from: "planned", to: "failed" }, "Trial 2, state: planned → failed"],
    [{ path: ["trials", "t2", "use"], from: true, to: false }, "Trial 2, counts in models: yes → no"],
    [{ path: ["factors", "bowl", "low"], from: 52, to: 50 }, "Bowl temperature, low: 52 → 50 °C"],
    [{ path: ["waves", "w2"], from: null, to: { id: "w2", name: "Second" } }, "Wave w2 added"],
    [{ path: ["trials", "t99"], from: { id: "t99", order: 31 }, to: null }, "Trial 31 removed"],
    [{ path: ["models", "moist"], from: { terms: [] }, to: null }, "Model of Moisture removed"],
    [
      { path: ["models", "moist", "terms"], from: [["bowl"], ["dose"]], to: [["bowl"], ["bowl", "dose"]] },
      "Model of Moisture, terms: Bowl temperature × Dose in, Dose out",
    ],
    [{ path: ["factors"], from: ["bowl", "dose"], to: ["dose", "bowl"] }, "Order of the factors changed"],
    [{ path: ["title"], from: "Drying", to: "Wetting" }, "Title of the study: Drying → Wetting"],
    [
      { path: ["setpoint"], from: null, to: { settings: { bowl: 60, lot: "hill" }, held: ["lot"] } },
      "Setpoint: settings Bowl temperature 60; Lot hill; held Lot",
    ],
  ])("%j", (edit, words) => {
    const gone = new Map([[goneKey("trials", "t99"), "31"]]);
    expect(messageText("changes", changeOf({ study, gone }, edit))).toBe(words);
  });
  it("places without what became of them, for cells changed twice at once", () => {
    expect(messageText("locations", locationOf({ study }, ["trials", "t3", "results", "moist"]))).toBe(
      "Moisture of trial 3",
    );
    expect(messageText("locations", locationOf({ study }, ["trials", "gone", "note"]))).toBe("Trial gone, note");
    expect(messageText("locations", locationOf({ study }, ["responses", "moist"]))).toBe("Response Moisture");
  });
  it("what stands in a cell is cut where it would push its question out of sight", () => {
    expect(standingText(valueAt({ study }, "x".repeat(500)))).toBe(`${"x".repeat(160)}…`);
    expect(standingText(valueAt({ study }, { id: "r2", name: "Cost", goal: { aim: "watch" } }))).toBe(
      "name Cost; aim and limits aim watch",
    );
  });
});
