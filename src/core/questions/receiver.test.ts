import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { storedModel } from "../model/data";
import { binomial } from "../model/laws/binomial";
import { gaussian } from "../model/laws/gaussian";
import type { Law, LawInput } from "../model/laws/law";
import { setups } from "../model/laws/setups";
import { type Edit, edit } from "../study/edit";
import { Memo } from "../study/memo";
import { reviseStudy } from "../study/revise";
import type { Study } from "../study/schema";
import { parseStudy } from "../study/validate";
import { StudyView } from "../study-view";
import { ask, finish, type QuestionInput } from "./ask";
import { receiver } from "./receiver";

const laws: Record<string, Law> = { gaussian, binomial, setups };
/** What each search of a law was for: its columns and results. */
const searches: string[] = [];
const nameOf = (id: string, { design, observed }: LawInput): string =>
  JSON.stringify([id, design.columns.map((c) => [c.key, c.index]), observed]);
beforeEach(() => {
  for (const [id, law] of Object.entries(laws)) {
    const { solve } = law;
    vi.spyOn(law, "solve").mockImplementation((input) => {
      searches.push(nameOf(id, input));
      return solve(input);
    });
  }
});
afterEach(() => {
  vi.restoreAllMocks();
  searches.length = 0;
});

const signs = [-1, 1];
const runs = [0, 1].flatMap(() => signs.flatMap((a) => signs.flatMap((b) => signs.map((c) => ({ a, b, c })))));
/** Residues that no column of the factorial carries. */
const noise = (i: number): number => ((i * 7919) % 13) / 13 - 0.5;
const study = (hard = false): Study =>
  parseStudy({
    format: "trialmoor-study",
    version: 1,
    title: "t",
    factors: ["a", "b", "c"].map((id) => ({
      id,
      kind: "continuous",
      low: -1,
      high: 1,
      ...(hard && id === "a" ? { change: "hard" as const } : {}),
    })),
    responses: [
      { id: "y", goal: { aim: "raise", low: 0, high: 10 } },
      { id: "z", goal: { aim: "lower", low: 0, high: 10 } },
      ...(hard ? [] : [{ id: "k", measured: "share" as const }]),
    ],
    waves: [{ id: "w" }],
    trials: runs.map((settings, i) => ({
      id: `t${i}`,
      order: i + 1,
      wave: "w",
      state: "done",
      settings,
      ...(hard ? { setup: 1 + Math.floor(i / 4) } : {}),
      results: {
        y: 5 + 2 * settings.a + settings.b + noise(i),
        z: 4 - settings.c + noise(3 * i + 1),
        ...(hard ? {} : { k: { events: 8 + 3 * settings.a + (i % 3), of: 40 } }),
      },
    })),
    models: [
      { response: "y", terms: [["a"], ["b"]] },
      { response: "z", terms: [["a"], ["c"]] },
      ...(hard ? [] : [{ response: "k", terms: [["a"], ["b"]] }]),
    ],
  });

/** A page and the thread beside it, which sees copies alone. */
function house() {
  const desk = new Memo();
  const receive = receiver();
  return (state: Study, inputs: QuestionInput<"evidence">[]) => {
    const view = new StudyView(state, desk);
    for (const r of state.responses) {
      const found = view.fitted(r.id);
      if (found.ok) void found.fitted.ladder;
    }
    view.wishes();
    return inputs.map((input) => {
      const held = receive(structuredClone(state), structuredClone(view.found()));
      return finish(ask("evidence", held.study, input, held.memo));
    });
  };
}
const evidenceOf = (state: Study): QuestionInput<"evidence">[] => [
  ...state.responses.map((r) => ({ of: { station: "model" as const, response: r.id } })),
  { of: { station: "trials" } },
  { of: { station: "setpoint", settings: { a: 1, b: 1, c: 1 } } },
];
const twice = (): string[] => searches.filter((s, i) => searches.indexOf(s) < i);

describe.each([
  ["easy factors, one response a share", false],
  ["a factor that is hard to change", true],
])("a page and the thread beside it, %s", (_, hard) => {
  const before = study(hard);
  const edits: [string, Edit[]][] = [
    ["a term taken in", [edit(before, ["models", "y", "terms"], [["a"], ["b"], ["a", "b"]])]],
    ["a result", [edit(before, ["trials", "t3", "results", "y"], 9)]],
    ["a goal", [edit(before, ["responses", "z", "goal"], { aim: "lower", low: 1, high: 10 })]],
  ];

  it.each(edits)("search for a fit once between them, after %s too", (_what, change) => {
    const look = house();
    look(before, evidenceOf(before));
    expect(searches.length).toBeGreaterThan(0);
    expect(twice()).toEqual([]);
    searches.length = 0;
    const after = reviseStudy(before, change);
    look(after, evidenceOf(after));
    expect(twice()).toEqual([]);
  });

  it("search for one fit alone when a term is taken in, that of its response", () => {
    const look = house();
    const model = [{ of: { station: "model" as const, response: "y" } }];
    look(before, model);
    searches.length = 0;
    const after = reviseStudy(before, [edit(before, ["models", "y", "terms"], [["a"], ["b"], ["a", "b"]])]);
    const view = new StudyView(after, new Memo());
    const own = view.fit("y", { terms: storedModel(after, "y")?.terms ?? [] });
    const columns = own.model.columns.map((c) => [c.key, c.index]);
    const [start] = JSON.stringify([own.law, columns]).split("]]]");
    searches.length = 0;
    look(after, model);
    expect(searches.filter((s) => s.startsWith(`${start}]]`))).toHaveLength(1);
  });

  it("say what a study that was never seen before would be told", () => {
    const look = house();
    const asked = evidenceOf(before).filter(({ of }) => of.station !== "model" || of.response === "y");
    for (const state of [before, reviseStudy(before, edits[1][1])])
      expect(look(state, asked)).toEqual(asked.map((input) => finish(ask("evidence", state, input))));
  });
});
