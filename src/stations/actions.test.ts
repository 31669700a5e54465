import { describe, expect, it } from "vitest";
import { messageText } from "@/core/findings";
import { importEdits } from "@/core/formats";
import { fittingOf } from "@/core/model";
import { StudyView } from "@/core/questions";
import {
  applyEdits,
  bringBack,
  type Edit,
  edit,
  enterResults,
  type Factor,
  Memo,
  parseStudy,
  retireFactors,
  type Study,
  type StudyInput,
  type Term,
} from "@/core/study";
import { ownStep, reduceResponse, setHierarchy, setTerms, toggleTerm } from "./model/actions";
import {
  addFactor,
  addResponse,
  moveRow,
  pasteFactors,
  pasteResponses,
  removeFactor,
  removeResponse,
  withRange,
} from "./question/actions";
import { blockPreview, enterAsRun, readResult, resultText } from "./trials/actions";

const study = (more: Partial<StudyInput> = {}): Study =>
  parseStudy({
    format: "trialmoor-study",
    version: 1,
    title: "t",
    factors: [
      { id: "temp", name: "Temperature", kind: "continuous", low: 10, high: 20, step: 1, hardLow: 5, hardHigh: 25 },
      { id: "lot", name: "Lot", kind: "categorical", levels: ["hill", "lowland"] },
    ],
    responses: [{ id: "y", name: "Yield" }],
    waves: [{ id: "w1" }],
    trials: [
      { id: "t1", wave: "w1", settings: { temp: 10, lot: "hill" } },
      { id: "t2", wave: "w1", state: "done", settings: { temp: 20, lot: "lowland" }, results: { y: 3 } },
    ],
    models: [{ response: "y", terms: [["temp"], ["lot"], ["temp", "lot"]], transform: "log" }],
    region: { limits: [{ terms: { temp: 1 }, at: "most", bound: 19 }], forbidden: [] },
    setpoint: { settings: { temp: 12, lot: "hill" } },
    ...more,
  });
const edited = (s: Study, edits: Parameters<typeof applyEdits>[1]): Study => parseStudy(applyEdits(s, edits));

describe("reducing where nothing can go", () => {
  it("leaves the model that was reduced in force, not the smaller one it stood at", () => {
    // Every term of three factors far clear of noise.
    const letters = ["a", "b", "c"];
    const trials = Array.from({ length: 16 }, (_, i) => {
      const settings = Object.fromEntries(letters.map((id, j) => [id, (i >> j) & 1 ? 1 : -1])) as Record<
        string,
        number
      >;
      const { a, b, c } = settings;
      const y = 50 + 8 * a + 6 * b + 5 * c + 4 * a * b + 3 * a * c + 2.5 * b * c + 0.1 * ((i * 7) % 5);
      return { id: `t${i}`, wave: "w1", state: "done" as const, settings, results: { y } };
    });
    const s = parseStudy({
      format: "trialmoor-study",
      version: 1,
      title: "t",
      factors: letters.map((id) => ({ id, kind: "continuous" as const, low: -1, high: 1 })),
      responses: [{ id: "y" }],
      waves: [{ id: "w1" }],
      trials,
      models: [{ response: "y", terms: [["a"], ["b"], ["c"], ["a", "b"]] }],
    });
    const viewOf = (of: Study) => new StudyView(of, new Memo());
    const now = (of: Study) => {
      const found = viewOf(of).fitted("y");
      if (!found.ok) throw found.refused;
      return found.fitted;
    };
    const how = { direction: "backward", by: "p", alpha: 0.05, from: "asked" } as const;
    const first = reduceResponse(viewOf(s), now(s), how);
    expect(first.changed).toBe(true);
    const after = edited(s, first.edits);
    expect(now(after).fit.terms).toHaveLength(6);
    // Of factors that a wave carried on, terms of those alone are weighed.
    const carrying = {
      ...s,
      waves: [{ ...s.waves[0], plan: { ...s.waves[0].plan, family: "carry", factors: ["a", "b"] } }],
    };
    const own = reduceResponse(viewOf(carrying as Study), now(carrying as Study), { ...how, from: "carried" });
    expect(now(edited(carrying as Study, own.edits)).fit.terms).toEqual([["a"], ["b"], ["a", "b"]]);
    // Offered as it is, with nothing that can go: reducing chooses it.
    const offered = {
      ...after,
      models: [],
      waves: [{ ...s.waves[0], plan: { ...s.waves[0].plan, asked: now(after).fit.terms } }],
    };
    const chosen = reduceResponse(viewOf(offered as Study), now(offered as Study), how);
    expect(chosen.changed).toBe(false);
    expect(edited(offered as Study, chosen.edits).models[0].terms).toEqual(now(after).fit.terms);
    // Asked again there is nothing left to do.
    expect(reduceResponse(viewOf(after), now(after), how)).toMatchObject({ changed: false, edits: [] });
  });
});

describe("Question", () => {
  it("adds a factor with what earlier trials were held at, and a fresh id and letter", () => {
    const s = study();
    const next = edited(
      s,
      addFactor(s, "Temperature 2", { kind: "continuous", low: 0, high: 1 }, { unit: "m", step: 0.1 }, 0.5),
    );
    const made = next.factors[2];
    expect([made.name, made.letter, made.unit]).toEqual(["Temperature 2", "C", "m"]);
    expect(next.trials.map((t) => t.settings[made.id])).toEqual([0.5, 0.5]);
    expect(next.factors.map((f) => f.id)).not.toContain(undefined);
  });
  it("keeps what still applies when a range becomes values or levels", () => {
    const f = study().factors[0] as Factor;
    expect(withRange(f, { kind: "continuous", low: 11, high: 19 })).toMatchObject({
      step: 1,
      hardLow: 5,
      hardHigh: 25,
      low: 11,
    });
    const listed = withRange(f, { kind: "discrete", values: [1, 2] });
    expect(listed).toMatchObject({ kind: "discrete", values: [1, 2], id: "temp", letter: "A" });
    expect(listed).not.toHaveProperty("step");
    expect(withRange(f, { kind: "categorical", levels: ["x", "y"] })).not.toHaveProperty("scale");
  });
  it("removes a factor from limits, models, setpoint and trials at once", () => {
    const s = study();
    const next = edited(s, removeFactor(s, "temp"));
    expect(next.factors.map((f) => f.id)).toEqual(["lot"]);
    expect(next.region.limits).toEqual([]);
    expect(next.models[0].terms).toEqual([["lot"]]);
    expect(next.setpoint).toBeUndefined();
    expect(next.trials.every((t) => !("temp" in t.settings))).toBe(true);
  });
  it("removes a factor that a reduction has moved, and what a wave was asked of it", () => {
    const s = study();
    const [model] = s.models;
    const steps = [
      { action: "start" as const, terms: [["temp"], ["lot"], ["temp", "lot"]] },
      { action: "out" as const, moved: [["temp", "lot"]], terms: [["temp"], ["lot"]] },
    ];
    const reduced = edited(s, [
      edit(s, ["models", model.response], { ...model, terms: [["lot"]], steps } as unknown as Edit["to"]),
      edit(s, ["waves", s.waves[0].id, "plan", "asked"], [["temp"], ["lot"], ["temp", "lot"]]),
    ]);
    const next = edited(reduced, removeFactor(reduced, "temp"));
    expect(next.models[0]).toMatchObject({ terms: [["lot"]] });
    expect(next.models[0]).not.toHaveProperty("steps");
    expect(next.waves[0].plan.asked).toEqual([["lot"]]);
  });
  it("retires and brings back, moves rows within their list, removes a response with its results", () => {
    const s = study();
    const held = edited(s, retireFactors(s, { lot: "hill" }));
    expect([held.factors[1].retired, held.models[0].terms.flat().includes("lot")]).toEqual(["hill", false]);
    expect(edited(held, bringBack(held, "lot")).factors[1].retired).toBeUndefined();
    expect(edited(s, moveRow(s, "factors", "lot", -1)).factors.map((f) => f.id)).toEqual(["lot", "temp"]);
    expect(moveRow(s, "factors", "lot", 1)).toEqual([]);
    const bare = edited(s, removeResponse(s, "y"));
    expect([bare.responses, bare.models, bare.trials[1].results]).toEqual([[], [], {}]);
    expect(edited(s, addResponse(s, "Cost", { unit: "p" })).responses[1]).toMatchObject({
      name: "Cost",
      unit: "p",
      goal: { aim: "watch" },
    });
  });
  it("reads factors pasted from a spreadsheet and says which rows it could not", () => {
    expect(pasteFactors(study(), "Feed\tkg/h\t450\t750").problems[0]).toContain("add factors one by one");
    const s = study({ trials: [], waves: [] });
    const { edits, problems, count } = pasteFactors(
      s,
      "name\tunit\tlow\thigh\tstep\nFeed\tkg/h\t450\t750\t10\nPasses\t\t1, 2, 4\nBroken\t\tnothing much\n",
    );
    expect(count).toBe(2);
    expect(problems).toHaveLength(1);
    expect(problems[0]).toContain("Row 4 (Broken)");
    const next = edited(s, edits);
    expect(next.factors[2]).toMatchObject({ name: "Feed", low: 450, high: 750, step: 10, unit: "kg/h" });
    expect(next.factors[3]).toMatchObject({ kind: "discrete", values: [1, 2, 4] });
  });
  it("reads responses with their goals, and watches those it cannot read", () => {
    const s = study();
    const { edits, problems, left } = pasteResponses(s, "Whiteness\tindex\traise\t58\t66\nCost\tp\tlower\tcheap\n");
    const next = edited(s, edits);
    expect(next.responses[1].goal).toMatchObject({ aim: "raise", low: 58, high: 66 });
    expect(next.responses[2].goal).toEqual({ aim: "watch" });
    expect(problems).toEqual([
      "Row 2 (Cost): “cheap” is not a pair of limits; type it like 24 to 14. It is watched until they are typed.",
    ]);
    expect(left).toEqual([{ id: "cost", aim: "lower", limits: "cheap" }]);
  });
  it("takes noise and the smallest change as further columns, whether limits stand in one cell or in two", () => {
    const s = study();
    const { edits, problems } = pasteResponses(
      s,
      "Gloss\tGU\traise\t60 to 80\t0,5\t2\nCost\tp\tlower\t14\t9\t0.2\t\nHaze\t%\twatch\t\tlots\t1\n",
    );
    expect(edited(s, edits).responses.slice(1)).toMatchObject([
      { name: "Gloss", goal: { aim: "raise", low: 60, high: 80 }, noise: 0.5, smallest: 2 },
      { name: "Cost", goal: { aim: "lower", low: 9, high: 14 }, noise: 0.2 },
      { name: "Haze", goal: { aim: "watch" }, smallest: 1 },
    ]);
    expect(problems).toEqual(["Row 3 (Haze): “lots” is no noise above 0; type it."]);
  });
  it("understands aims as people write them; one it does not keeps its row and says which words are understood", () => {
    const s = study();
    const { edits, problems, left, count } = pasteResponses(
      s,
      "Gloss\t\tMaximise\t60\t80\nCost\tp\tmin\t14\t9\npH\t\t\nFeel\t\tbest\t1\t5\nHaze\t%\traise\nNip\tN\tkeep within\t3\t5\n",
    );
    expect(count).toBe(6);
    const next = edited(s, edits);
    expect(next.responses.slice(1).map((r) => [r.name, r.goal.aim])).toEqual([
      ["Gloss", "raise"],
      ["Cost", "lower"],
      ["pH", "watch"],
      ["Feel", "watch"],
      ["Haze", "watch"],
      ["Nip", "within"],
    ]);
    expect(problems).toEqual([
      "Row 4 (Feel): “best” is not an aim; raise, lower, hit, within and watch are understood, also maximise, minimise, target and between. The row is kept and watched until its aim is chosen.",
      "Row 5 (Haze): its aim, raise, has no limits yet; type them.",
    ]);
    // An aim without limits is asked for; limits without an aim wait for one.
    expect(left).toEqual([
      { id: "feel", limits: "1 to 5" },
      { id: "haze", aim: "raise" },
    ]);
  });
});

describe("Trials", () => {
  const plain = study().responses[0];
  const share = { ...plain, measured: "share" as const, of: 50 };
  it("reads events of a share as typed: pairs, alone, as a percentage; refuses what is no whole piece", () => {
    for (const text of ["3/50", "3 of 50", "3 in 50", "3", "6 %", "6%"])
      expect(readResult(text, share)).toEqual({ ok: true, value: { events: 3, of: 50 } });
    expect(readResult("3/48", share)).toEqual({ ok: true, value: { events: 3, of: 48 } });
    const refused: [string, RegExp][] = [
      ["51", /51 of 50 is more than there were/],
      ["3.5", /fraction of a piece/],
      ["0.06", /fraction of a piece.*as 6 %/],
      ["3/0", /one whole piece or more/],
      ["7 %", /is 3\.5 of 50 pieces.*as 4\/50/],
      ["-1", /below 0/],
      ["3 4", /several values/],
      ["many", /not a count/],
    ];
    for (const [text, sentence] of refused)
      expect(readResult(text, share)).toMatchObject({ ok: false, sentence: expect.stringMatching(sentence) });
    const { of: _of, ...open } = share;
    expect(readResult("6 %", open)).toMatchObject({ sentence: expect.stringMatching(/of how many pieces/) });
    expect(readResult("0.06", open)).toMatchObject({ sentence: expect.stringMatching(/of how many pieces/) });
    expect(readResult("3", open)).toMatchObject({ sentence: expect.stringMatching(/Type 3\/50/) });
  });
  it("reads events of a count with their exposure; refuses a percentage and no exposure", () => {
    const count = { ...plain, measured: "count" as const, of: 2.5, unit: "dm²" };
    expect(readResult("4", count)).toEqual({ ok: true, value: { events: 4, of: 2.5 } });
    expect(readResult("4/1,5", count)).toEqual({ ok: true, value: { events: 4, of: 1.5 } });
    expect(readResult("4/-1", count)).toMatchObject({ sentence: expect.stringMatching(/above 0/) });
    expect(readResult("6 %", count)).toMatchObject({ sentence: expect.stringMatching(/is a percentage/) });
    expect(readResult("2.5/2.5", count)).toMatchObject({ sentence: expect.stringMatching(/no whole number/) });
  });
  it("reads one value, repeats, decimal commas and nothing; refuses words", () => {
    expect(readResult("1,5", plain)).toEqual({ ok: true, value: 1.5 });
    expect(readResult("0.61 0.63; 0.7", plain)).toEqual({ ok: true, value: [0.61, 0.63, 0.7] });
    expect(readResult("  ", plain)).toEqual({ ok: true, value: null });
    expect(readResult("wet", plain)).toMatchObject({ ok: false });
    expect(resultText([0.6, null, 1], { decimals: 2 })).toBe("0.60 – 1.00");
    expect(resultText(0.123, { decimals: 2 })).toBe("0.123");
  });
  it("marks a trial run with its first result and waiting again with its last one gone", () => {
    const s = study();
    expect(edited(s, enterResults(s, [{ trial: s.trials[0].id, response: "y", value: 4 }])).trials[0].state).toBe(
      "done",
    );
    expect(edited(s, enterResults(s, [{ trial: s.trials[1].id, response: "y", value: null }])).trials[1].state).toBe(
      "planned",
    );
  });
  it("keeps what was really set and lets the mark go when it is the plan's again", () => {
    const s = study();
    const entered = enterAsRun(s, s.trials[0], s.factors[0], "10.4");
    expect(entered.ok && edited(s, entered.edits).trials[0].asRun).toEqual({ temp: 10.4 });
    const level = enterAsRun(s, s.trials[0], s.factors[1], "LOWLAND");
    expect(level.ok && edited(s, level.edits).trials[0].asRun).toEqual({ lot: "lowland" });
    const same = enterAsRun(s, s.trials[0], s.factors[0], "10");
    expect(same.ok && same.edits[0].to).toBeNull();
    expect(enterAsRun(s, s.trials[0], s.factors[1], "moor")).toMatchObject({
      ok: false,
      sentence: expect.stringContaining("no level “moor”"),
    });
    expect(enterAsRun(s, s.trials[0], s.factors[0], "warm")).toMatchObject({ ok: false });
  });
  it("lays a block without headings over rows as shown and says what falls outside", () => {
    const s = study();
    const preview = blockPreview(s.trials, 0, [s.responses[0]], 0, [["5"], ["3", "9"], ["7"]]);
    expect(preview.values).toEqual([{ trial: "t1", order: 1, response: "y", before: null, after: 5 }]);
    expect(preview.problems.map((p) => messageText("rows", p.said))).toEqual([
      "Line 2: “9” falls outside the results.",
      "Line 3: there is no trial left for it.",
    ]);
    expect(edited(s, importEdits(s, preview)).trials[0]).toMatchObject({ state: "done", results: { y: 5 } });
  });
});

describe("Model", () => {
  it("brings parents in with an interaction and says so", () => {
    const toggled = toggleTerm(study(), { terms: [] }, ["temp", "lot"], false);
    expect(toggled).toMatchObject({ ok: true, note: expect.stringContaining("came in too") });
    expect(toggled.ok && toggled.terms).toEqual([["temp"], ["lot"], ["temp", "lot"]]);
  });
  it("keeps a parent that is needed, or takes all out when forced", () => {
    const terms: Term[] = [["temp"], ["lot"], ["temp", "lot"]];
    expect(toggleTerm(study(), { terms }, ["temp"], false)).toMatchObject({
      ok: false,
      sentence: expect.stringContaining("needs it"),
    });
    const forced = toggleTerm(study(), { terms }, ["temp"], true);
    expect(forced.ok && forced.terms).toEqual([["lot"]]);
    const out = toggleTerm(study(), { terms }, ["lot", "temp"], false);
    expect(out.ok && out.terms).toEqual([["temp"], ["lot"]]);
  });
  it("takes out with a term of three factors the parents that came in for it, but for those that another needs", () => {
    const mains: Term[] = [["temp"], ["time"], ["dose"]];
    const triple: Term = ["temp", "time", "dose"];
    const three = parseStudy({
      ...study(),
      factors: mains.map(([id]) => ({ id, kind: "continuous" as const, low: 0, high: 1 })),
      trials: [],
      models: [],
      waves: [],
      setpoint: undefined,
    });
    const taken = toggleTerm(three, { terms: mains }, triple, false);
    const terms = taken.ok ? taken.terms : [];
    expect(terms).toHaveLength(7);
    const steps = [ownStep(mains, terms, null)];
    const out = toggleTerm(three, { terms, steps }, triple, false);
    expect(out).toEqual({ ok: true, terms: mains, note: expect.stringContaining("came in for it") });
    // A pair that stood before, or that somebody took in afterwards, is nobody's luggage.
    const pair: Term[] = [...mains, ["temp", "time"]];
    const again = toggleTerm(three, { terms: pair }, triple, false);
    const whole = again.ok ? again.terms : [];
    expect(toggleTerm(three, { terms: whole, steps: [ownStep(pair, whole, null)] }, triple, false)).toMatchObject({
      terms: pair,
    });
  });
  it("lets a main effect leave where hierarchy is off, and brings it back where it is switched on", () => {
    const terms: Term[] = [["temp"], ["lot"], ["temp", "lot"]];
    const out = toggleTerm(study(), { terms, hierarchy: "off" }, ["lot"], false);
    expect(out).toEqual({ ok: true, terms: [["temp"], ["temp", "lot"]] });
    expect(toggleTerm(study(), { terms: [], hierarchy: "off" }, ["temp", "lot"], false)).toMatchObject({
      terms: [["temp", "lot"]],
    });
    const without = edited(study(), setTerms(study(), "y", [["temp"], ["temp", "lot"]]));
    const present: Term[] = [["temp"], ["temp", "lot"]];
    const fit = { response: "y", terms: present, fitting: fittingOf(without.models[0]) };
    const free = edited(without, setHierarchy(without, fit, false).edits);
    expect(free.models[0]).toMatchObject({ hierarchy: "off", terms: [["temp"], ["temp", "lot"]] });
    const kept = setHierarchy(free, fit, true);
    expect(kept.came).toEqual([["lot"]]);
    expect(edited(free, kept.edits).models[0]).not.toHaveProperty("hierarchy");
  });
  it("stores terms in model order and keeps the scale", () => {
    const s = study();
    const next = edited(s, setTerms(s, "y", [["lot", "temp"], ["temp"]]));
    expect(next.models[0]).toMatchObject({ terms: [["temp"], ["temp", "lot"]], transform: "log" });
  });
});
