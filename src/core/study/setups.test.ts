import { describe, expect, it } from "vitest";
import { ledgerCsv } from "../formats/csv";
import { waveFromSheet } from "../formats/foreign-wave";
import { plainStudy, refusal } from "../testing/studies";
import { applyEdits } from "./edit";
import type { Study } from "./schema";
import { guessedSetupEdits, guessedSetups, joinable, opensSetup, setupEdits } from "./setups";
import { parseStudy } from "./validate";

/** An oven whose heat was set as given, trial after trial. */
function oven(heats: readonly number[], more: { change?: "easy" | "hard"; setups?: readonly number[] } = {}): Study {
  const base = plainStudy(2);
  return parseStudy({
    ...base,
    factors: base.factors.map((f) => ({ ...f, change: f.id === "a" ? (more.change ?? "hard") : "easy" })),
    waves: [{ id: "w1" }],
    trials: heats.map((a, i) => ({
      id: `t${i + 1}`,
      wave: "w1",
      order: i + 1,
      ...(more.setups ? { setup: more.setups[i] } : {}),
      state: "done" as const,
      settings: { a, b: i % 2 === 0 ? -1 : 1 },
      results: { y: 10 + a + i },
    })),
  });
}
const numbers = (s: Study): (number | undefined)[] => s.trials.map((t) => t.setup);
const edited = (s: Study, edits: Parameters<typeof applyEdits>[1]): Study => parseStudy(applyEdits(s, edits));

describe("set-ups of an old ledger", () => {
  const study = oven([-1, -1, 1, 1, 1, -1]);
  it("are guessed from runs of equal settings, and nothing is marked unasked", () => {
    expect(guessedSetups(study)).toEqual({ setups: 3, trials: 6, most: 3 });
    expect(numbers(study)).toEqual(Array(6).fill(undefined));
  });
  it("are marked in one go, and then not asked about again", () => {
    const marked = edited(study, guessedSetupEdits(study));
    expect(numbers(marked)).toEqual([1, 1, 2, 2, 2, 3]);
    expect(guessedSetups(marked)).toBeUndefined();
    expect(guessedSetupEdits(marked)).toEqual([]);
  });
  it("are none where every trial was reset, or nothing is hard to change", () => {
    expect(guessedSetups(oven([-1, 1, -1, 1]))).toBeUndefined();
    expect(guessedSetups(oven([-1, -1, 1, 1], { change: "easy" }))).toBeUndefined();
    expect(guessedSetups(plainStudy(2))).toBeUndefined();
  });
  it("follow run order, whatever the order in the file", () => {
    const turned = parseStudy({ ...study, trials: [...study.trials].reverse() });
    const marked = edited(turned, guessedSetupEdits(turned));
    expect([...marked.trials].sort((a, b) => a.order - b.order).map((t) => t.setup)).toEqual([1, 1, 2, 2, 2, 3]);
  });
});

describe("a set-up that was broken off or repeated", () => {
  const study = oven([-1, -1, -1, -1, 1, 1], { setups: [1, 1, 1, 1, 2, 2] });
  it("begins anew where a person says so, and later ones are numbered on", () => {
    const broken = edited(study, setupEdits(study, study.trials[2], true));
    expect(numbers(broken)).toEqual([1, 1, 2, 2, 3, 3]);
    expect(broken.trials.map((t) => opensSetup(broken, t))).toEqual([true, false, true, false, true, false]);
  });
  it("goes on from the one before where nothing was reset, and only at the same settings", () => {
    const broken = edited(study, setupEdits(study, study.trials[2], true));
    expect(joinable(broken, broken.trials[2])).toBe(true);
    expect(joinable(broken, broken.trials[4])).toBe(false);
    expect(joinable(broken, broken.trials[0])).toBe(false);
    expect(numbers(edited(broken, setupEdits(broken, broken.trials[2], false)))).toEqual([1, 1, 1, 1, 2, 2]);
  });
  it("is no matter where set-ups are not marked", () =>
    expect(opensSetup(oven([-1, 1]), oven([-1, 1]).trials[0])).toBeUndefined());
});

describe("set-ups in sheets", () => {
  it("stand after the wave where there are any, and nowhere else", () => {
    const [head, first] = ledgerCsv(oven([-1, -1, 1, 1], { setups: [1, 1, 2, 2] })).split("\r\n");
    expect(head).toBe("order,standard,wave,setup,kind,state,a,b,y,note,trial id");
    expect(first.split(",")[3]).toBe("1");
    expect(ledgerCsv(oven([-1, 1])).split("\r\n")[0]).not.toContain("setup");
  });
  it("come with trials run elsewhere", () => {
    const { trials, untaken, problems } = waveFromSheet(
      oven([-1, 1]),
      "setup,a,b,y\n1,-1,-1,3\n1,-1,1,4\n2,1,-1,5\nlast,1,1,6",
      "Old oven",
    );
    expect(trials.map((t) => t.setup)).toEqual([1, 1, 2]);
    expect(untaken).toEqual([]);
    expect(problems.map((p) => [p.row, p.said.code])).toEqual([[5, "row-no-setup"]]);
  });
  it("stay out where nothing is hard to change", () => {
    const { trials, untaken } = waveFromSheet(oven([-1, 1], { change: "easy" }), "setup,a,b,y\n1,-1,-1,3", "Old oven");
    expect(trials[0].setup).toBeUndefined();
    expect(untaken.map((u) => u.column)).toEqual(["setup"]);
  });
});

describe("set-ups that contradict their trials are refused, each in one sentence", () => {
  it("missing in part", () =>
    expect(
      refusal(() => {
        const s = oven([-1, -1], { setups: [1, 1] });
        parseStudy({ ...s, trials: s.trials.map((t, i) => (i === 1 ? { ...t, setup: undefined } : t)) });
      }),
    ).toMatch(/[Tt]rial 2.*set-up/));
  it("a hard factor that changes within one, named", () =>
    expect(refusal(() => oven([-1, 1], { setups: [1, 1] }))).toMatch(/a changes|changes a|a .*set-up 1/));
  it("one that comes back after another", () =>
    expect(refusal(() => oven([-1, 1, -1], { setups: [1, 2, 1] }))).toMatch(/set-up 1/i));
});
