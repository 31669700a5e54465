import type { KeyboardEvent } from "react";
import { describe, expect, it } from "vitest";
import { applyEdits, parseStudy, type Study } from "@/core/study";
import { linesOf } from "./bands";
import { columnsOf, wholeFrom } from "./columns";
import { blockGiven, entryOf } from "./entry";
import { beginsUnasked, ledgerKey, meantForLedger } from "./ledger-keys";

const study = (more: object = {}): Study =>
  parseStudy({
    format: "trialmoor-study",
    version: 1,
    title: "t",
    factors: [
      { id: "heat", name: "Heat", kind: "continuous", low: 10, high: 20, unit: "°C", change: "hard" },
      { id: "lot", name: "Lot", kind: "categorical", levels: ["hill", "lowland"] },
    ],
    covariates: [{ id: "damp", name: "Damp" }],
    responses: [
      { id: "y", name: "Yield" },
      { id: "k", name: "Cracked", measured: "share", of: 20 },
    ],
    waves: [{ id: "w1" }, { id: "w2" }],
    trials: [
      { id: "t1", wave: "w1", setup: 1, settings: { heat: 10, lot: "hill" } },
      { id: "t2", wave: "w1", setup: 1, settings: { heat: 10, lot: "lowland" } },
      { id: "t3", wave: "w1", setup: 2, settings: { heat: 10, lot: "hill" } },
      { id: "t4", wave: "w2", settings: { heat: 20, lot: "hill" } },
    ],
    ...more,
  });
/** What a text typed into a column of the first trial leaves there, or the sentence that refuses it. */
function typed(id: string, text: string): unknown {
  const s = study();
  const column = columnsOf(s).find((c) => c.id === id);
  const entry = entryOf(s, s.trials[0], column as NonNullable<typeof column>, text);
  if (!entry.ok) return entry.sentence;
  const [trial] = parseStudy(applyEdits(s, entry.edits)).trials;
  return {
    ...trial.results,
    ...trial.asRun,
    ...trial.covariates,
    note: trial.note,
    ...(entry.ask ? { ask: true } : {}),
  };
}

describe("a cell of the ledger", () => {
  it("takes results, repeats, events, what was measured with a trial, notes and settings as run", () => {
    expect(typed("y", "3.5")).toEqual({ y: 3.5, note: "" });
    expect(typed("y", "3.5 3.7")).toEqual({ y: [3.5, 3.7], note: "" });
    expect(typed("k", "2")).toEqual({ k: { events: 2, of: 20 }, note: "" });
    expect(typed("damp", "61")).toEqual({ damp: 61, note: "" });
    expect(typed("note", "door open")).toEqual({ note: "door open" });
    expect(typed("heat", "12")).toEqual({ heat: 12, note: "" });
    expect(typed("lot", "LOWLAND")).toEqual({ lot: "lowland", note: "" });
  });
  it("asks about a setting far from what was meant, and keeps what it would be", () => {
    expect(typed("heat", "400")).toEqual({ heat: 400, note: "", ask: true });
  });
  it("refuses in a sentence that names the trial and the column", () => {
    expect(typed("y", "much")).toMatch(/^Trial 1, Yield: .*much/);
    expect(typed("damp", "wet")).toBe("Trial 1, Damp: “wet” is not a number; type what was measured.");
    expect(typed("heat", "hot")).toMatch(/^Trial 1, Heat: “hot” is not a number/);
    expect(typed("lot", "north")).toBe("Trial 1, Lot has no level “north”; it has hill, lowland.");
    expect(typed("k", "30")).toMatch(/^Trial 1, Cracked: /);
  });
});

describe("what the ledger shows from top to bottom", () => {
  it("bands of waves and of set-ups stand above their trials; in standard order set-ups have none", () => {
    const s = study();
    const seen = (by: "run" | "standard"): string[] =>
      linesOf(s, s.trials, by).map((l) =>
        l.kind === "band" ? l.wave : l.kind === "setup" ? `s${l.trial.setup}` : l.trial.id,
      );
    expect(seen("run")).toEqual(["w1", "s1", "t1", "t2", "s2", "t3", "w2", "t4"]);
    expect(seen("standard")).toEqual(["w1", "t1", "t2", "t3", "w2", "t4"]);
  });
});

describe("a block pasted without headings", () => {
  const at = (of: Study, id: string, row = 0) => ({ row, col: columnsOf(of).findIndex((c) => c.id === id) });
  it("is laid over the rows; one column of more values than trials are one trial's", () => {
    const s = study();
    const two = blockGiven(s.trials, columnsOf(s), at(s, "y"), [["1"], ["2"]]);
    expect([two.together, two.block !== undefined, two.whole !== undefined]).toEqual([false, true, true]);
    const five = blockGiven(s.trials, columnsOf(s), at(s, "y"), [["1"], ["2"], ["3"], ["4"], ["5"]]);
    expect(five.together).toBe(true);
    // Events are counted trial by trial.
    expect(blockGiven(s.trials, columnsOf(s), at(s, "k"), [["1"], ["2"]]).whole).toBeUndefined();
  });
  it("of units of one trial belongs together", () => {
    const s = study({ responses: [{ id: "y", name: "Yield", several: "units" }] });
    expect(blockGiven(s.trials, columnsOf(s), at(s, "y", 1), [["1"], ["2"]]).together).toBe(true);
  });
});

describe("keys in the ledger", () => {
  /** What a key does, and whether the page keeps it. */
  function pressed(
    key: string,
    held: Partial<KeyboardEvent> = {},
    inButton = false,
    begins: (key: string) => boolean = beginsUnasked,
  ): { did: string[]; kept: boolean } {
    const did: string[] = [];
    let kept = true;
    const target = { closest: () => (inButton ? {} : null) };
    ledgerKey(
      {
        key,
        target,
        currentTarget: { contains: () => true },
        preventDefault: () => (kept = false),
        stopPropagation: () => undefined,
        ...held,
      } as unknown as KeyboardEvent,
      {
        move: (r, c, more) => did.push(`move ${r} ${c}${more ? " more" : ""}`),
        markAll: () => did.push("all"),
        unmark: () => did.push("unmark"),
        open: (t) => did.push(`open ${t ?? ""}`),
        begins,
        empty: () => did.push("empty"),
        menu: () => did.push("menu"),
        history: () => did.push("history"),
      },
    );
    return { did, kept };
  }
  it.each([
    ["ArrowDown", {}, "move 1 0"],
    ["ArrowLeft", { shiftKey: true }, "move 0 -1 more"],
    ["PageUp", {}, "move -15 0"],
    ["Home", {}, "move 0 -Infinity"],
    ["End", { ctrlKey: true }, "move Infinity 0"],
    ["a", { ctrlKey: true }, "all"],
    ["Enter", {}, "open "],
    ["F2", {}, "open "],
    ["7", {}, "open 7"],
    ["Delete", {}, "empty"],
    ["F10", { shiftKey: true }, "menu"],
    ["ContextMenu", {}, "menu"],
    ["h", { altKey: true }, "history"],
  ])("%s %j: %s", (key, held, did) => {
    expect(pressed(key, held)).toEqual({ did: [did], kept: false });
  });
  it("leaves to the page what is the page's: its shortcuts, Tab, Escape beside unmarking, keys on a button", () => {
    expect(pressed("z", { ctrlKey: true })).toEqual({ did: [], kept: true });
    expect(pressed("Tab")).toEqual({ did: [], kept: true });
    expect(pressed("Escape")).toEqual({ did: ["unmark"], kept: true });
    expect(pressed("Enter", {}, true)).toEqual({ did: [], kept: true });
    expect(pressed("w")).toEqual({ did: [], kept: true });
  });
  it("what is typed lands; the page's own letters do once somebody works in the ledger", () => {
    for (const key of ["-", ",", "<", "n", "7"]) expect(pressed(key).did).toEqual([`open ${key}`]);
    expect(pressed("w", {}, false, () => true)).toEqual({ did: ["open w"], kept: false });
  });
  it("pressed where nothing has the focus, they are the ledger's but for the page's own", () => {
    const plain = { ctrlKey: false, metaKey: false, altKey: false };
    for (const key of ["7", ",", "n", "ArrowDown", "Enter", "Delete"])
      expect(meantForLedger({ key, ...plain })).toBe(true);
    for (const key of ["g", "w", "[", " ", "Tab", "Escape"]) expect(meantForLedger({ key, ...plain })).toBe(false);
    expect(meantForLedger({ key: "7", ...plain, ctrlKey: true })).toBe(false);
  });
});

describe("where the ledger opens", () => {
  it("lies at the edge of a column: none is cut at its left", () => {
    const widths = [62, 56, 104, 62].map((width) => ({ width }));
    expect(wholeFrom(widths, -300)).toBe(0);
    expect(wholeFrom(widths, 1)).toBe(62);
    expect(wholeFrom(widths, 62)).toBe(62);
    expect(wholeFrom(widths, 130)).toBe(62 + 56 + 104);
  });
  it("levels of a category take no more than a column's width, however long their names", () => {
    const long = study({
      factors: [{ id: "lot", kind: "categorical", levels: ["hill".repeat(15), "lowland"] }],
      waves: [],
      trials: [],
    });
    expect(columnsOf(long)[0].width).toBeLessThan(200);
  });
});
