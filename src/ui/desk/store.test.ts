import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { cellAt, type Edit, edit, parseStudy, reviseStudy, type Study, sameData } from "@/core/study";
import { createDesk } from "./store";
import { undoableOf } from "./undo";

const opened = (): Study =>
  parseStudy({
    format: "trialmoor-study",
    version: 1,
    title: "Opened",
    factors: [
      { id: "a", kind: "continuous", low: 0, high: 10 },
      { id: "c", kind: "categorical", levels: ["x", "y"] },
    ],
    responses: [{ id: "y" }, { id: "z" }],
  });

/** A server that takes changes as the real one does. */
function fakeServer(study: Study) {
  const state = { revision: 1, study, calls: 0, down: false, refuses: [] as string[], made: [] as Edit[][] };
  const answer = (status: number, body: object): Response =>
    new Response(JSON.stringify(body), { status, headers: { "content-type": "application/json" } });
  const handler = vi.fn(async (_url: string, init?: { method?: string; body?: string }) => {
    if (state.down) throw new TypeError("no network");
    if (init?.method !== "PATCH") return answer(200, { revision: state.revision, study: state.study });
    state.calls++;
    const { revision, edits } = JSON.parse(init.body ?? "{}");
    // On another revision it is taken where every cell holds what was seen, as the server does it.
    const stale = revision !== state.revision;
    const missed = stale ? state.made.slice(revision - 1).flat() : [];
    if (stale && edits.some((e: Edit) => !sameData(cellAt(state.study, e.path), e.from)))
      return answer(409, { detail: "stale", revision: state.revision, study: state.study });
    if (edits.some((e: { to: unknown }) => state.refuses.includes(String(e.to))))
      return answer(422, { detail: "Not that." });
    try {
      state.study = reviseStudy(state.study, edits);
    } catch (error) {
      return answer(422, { detail: (error as Error).message });
    }
    state.made.push(edits);
    state.revision++;
    return answer(200, { revision: state.revision, missed });
  });
  vi.stubGlobal("fetch", handler);
  return Object.assign(state, {
    handler,
    /** A change that another tab or a program makes. */
    elsewhere(edits: Edit[]): void {
      state.study = reviseStudy(state.study, edits);
      state.made.push(edits);
      state.revision++;
    },
  });
}

let kept: Map<string, string>;
beforeEach(() => {
  kept = new Map();
  vi.useFakeTimers();
  vi.stubGlobal("localStorage", {
    getItem: (k: string) => kept.get(k) ?? null,
    setItem: (k: string, v: string) => kept.set(k, v),
    removeItem: (k: string) => kept.delete(k),
  });
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});
const settle = async (ms = 100): Promise<void> => {
  await vi.advanceTimersByTimeAsync(ms);
};

describe("the way back behind a reload", () => {
  const event = (what: string, from: string, to: string, more: object = {}) => ({
    what,
    changes: [{ path: ["title"], from, to }],
    count: 1,
    ...more,
  });
  it("is told by the history: an undoing takes its change with it, what was done again stands", () => {
    const told = undoableOf([
      event("redo: renamed", "B", "C"),
      event("undo: renamed", "C", "B"),
      event("renamed", "B", "C"),
      event("named", "A", "B"),
    ]);
    expect(told.map((c) => c.what)).toEqual(["named", "renamed"]);
    expect(told[1].inverse).toEqual([{ path: ["title"], from: "C", to: "B" }]);
  });
  it("ends where a change is not told whole, or took a row whose place is not known", () => {
    const large = event("pasted", "B", "C", { count: 90 });
    expect(undoableOf([event("named", "C", "D"), large, event("renamed", "A", "B")]).map((c) => c.what)).toEqual([
      "named",
    ]);
    const row = { what: "removed", count: 1, changes: [{ path: ["factors", "a"], from: { id: "a" }, to: null }] };
    expect(undoableOf([row])).toEqual([]);
  });
  it("is taken up by a desk that was opened anew", async () => {
    const study = opened();
    const server = fakeServer(study);
    const first = createDesk("s", 1, study);
    first.getState().commit([edit(study, ["title"], "Renamed")], "renamed");
    await settle();
    vi.stubGlobal("fetch", async (url: string, init?: { method?: string; body?: string }) =>
      String(url).includes("/history")
        ? new Response(JSON.stringify({ events: [event("renamed", "Opened", "Renamed")] }), { status: 200 })
        : server.handler(url, init),
    );
    const again = createDesk("s", server.revision, server.study);
    await again.getState().recall();
    expect(again.getState().undo()).toBeUndefined();
    await settle();
    expect(server.study.title).toBe("Opened");
  });
});

describe("the desk", () => {
  it("shows a change at once, saves it after, and undoes it as a new change", async () => {
    const study = opened();
    const server = fakeServer(study);
    const desk = createDesk("s", 1, study);
    expect(desk.getState().commit([edit(study, ["title"], "Renamed")], "renamed")).toBeUndefined();
    expect(desk.getState().study.title).toBe("Renamed");
    expect(desk.getState().saved).toBe("saving");
    await settle();
    expect([desk.getState().saved, desk.getState().revision, server.study.title]).toEqual(["saved", 2, "Renamed"]);
    expect(desk.getState().undo()).toBeUndefined();
    await settle();
    expect([server.study.title, server.revision]).toEqual(["Opened", 3]);
    desk.getState().redo();
    await settle();
    expect(server.study.title).toBe("Renamed");
  });

  it("answers the sentence of a change that makes no study and changes nothing", () => {
    const study = opened();
    fakeServer(study);
    const desk = createDesk("s", 1, study);
    const sentence = desk.getState().commit([edit(study, ["factors", "a", "low"], 50)], "x");
    expect(sentence).toContain("must be below high");
    expect(desk.getState().study).toBe(study);
    expect(desk.getState().undoable).toHaveLength(0);
  });

  it("sends one change at a time, in order, on the last acknowledged revision", async () => {
    const study = opened();
    const server = fakeServer(study);
    const desk = createDesk("s", 1, study);
    for (const t of ["one", "two", "three"]) desk.getState().commit([edit(desk.getState().study, ["title"], t)], t);
    await settle();
    expect([server.calls, server.revision, server.study.title]).toEqual([3, 4, "three"]);
  });

  it("keeps what waits where a reload finds it, and takes it up again", async () => {
    const study = opened();
    const server = fakeServer(study);
    server.down = true;
    const first = createDesk("s", 1, study);
    first.getState().commit([edit(study, ["title"], "Typed offline")], "renamed");
    await settle();
    expect(first.getState().saved).toBe("offline");
    expect(kept.size).toBe(1);
    server.down = false;
    const second = createDesk("s", 1, study);
    second.getState().resume();
    await settle(3000);
    expect([server.study.title, second.getState().saved, kept.size]).toEqual(["Typed offline", "saved", 0]);
  });

  it("replays on top of another tab's change what that did not touch, and shows the rest side by side", async () => {
    const study = opened();
    const server = fakeServer(study);
    server.elsewhere([edit(study, ["title"], "Theirs"), edit(study, ["notes"], "their note")]);
    const desk = createDesk("s", 1, study);
    desk.getState().commit([edit(study, ["factors", "a", "high"], 12)], "range");
    desk.getState().commit([edit(desk.getState().study, ["title"], "Mine")], "renamed");
    await settle();
    const { study: now, clashes, saved } = desk.getState();
    expect(now.title).toBe("Theirs");
    expect(now.notes).toBe("their note");
    expect(server.study.factors[0]).toMatchObject({ high: 12 });
    expect(clashes).toEqual([{ path: ["title"], mine: "Mine", theirs: "Theirs" }]);
    expect(saved).toBe("saved");
    desk.getState().settle(clashes[0], "mine");
    await settle();
    expect([server.study.title, desk.getState().clashes.length]).toEqual(["Mine", 0]);
  });

  it("keeps every change that was not itself refused, and the refused one beside what stands", async () => {
    const study = opened();
    const server = fakeServer(study);
    server.refuses = ["Bad"];
    const desk = createDesk("s", 1, study);
    const commit = (path: string[], to: string | number): void => {
      const now = desk.getState().study;
      desk.getState().commit([edit(now, path, to)], `${path.join(".")} ${to}`);
    };
    commit(["title"], "First");
    commit(["notes"], "noted");
    commit(["factors", "a", "name"], "Bad");
    commit(["factors", "a", "high"], 12);
    commit(["responses", "y", "name"], "Yield");
    await settle(500);
    const { study: now, pending, refused, saved, undoable } = desk.getState();
    expect(now).toMatchObject({ title: "First", notes: "noted" });
    expect(now.factors[0]).toMatchObject({ name: "a", high: 12 });
    expect(now.responses[0].name).toBe("Yield");
    expect([server.study.title, server.study.responses[0].name, server.revision]).toEqual(["First", "Yield", 5]);
    expect([pending.length, saved, undoable.length]).toEqual([0, "refused", 4]);
    expect(refused).toEqual([
      {
        edits: [{ path: ["factors", "a", "name"], from: "a", to: "Bad" }],
        what: "factors.a.name Bad",
        sentence: "Not that.",
      },
    ]);
    // It outlives a reload, and can be made again on what stands then.
    const later = createDesk("s", 5, server.study);
    later.getState().resume();
    expect(later.getState().refused).toEqual(refused);
    server.refuses = [];
    expect(later.getState().retry(later.getState().refused[0])).toBeUndefined();
    await settle(500);
    expect([server.study.factors[0].name, later.getState().refused.length, later.getState().saved]).toEqual([
      "Bad",
      0,
      "saved",
    ]);
  });

  it("shows what rests on a refused change with it, and lets both go", async () => {
    const study = opened();
    const server = fakeServer(study);
    server.refuses = ["Bad"];
    const desk = createDesk("s", 1, study);
    const added = {
      id: "d",
      letter: "D",
      name: "Bad",
      kind: "continuous",
      low: 0,
      high: 1,
      scale: "linear",
      change: "easy",
    };
    server.refuses = ["[object Object]"];
    desk.getState().commit([edit(study, ["factors", "d"], added)], "added D");
    desk.getState().commit([edit(desk.getState().study, ["factors", "d", "high"], 5)], "range of D");
    desk.getState().commit([edit(desk.getState().study, ["title"], "Better")], "renamed");
    desk.getState().commit([edit(desk.getState().study, ["notes"], "kept")], "noted");
    await settle(500);
    const { refused, study: now } = desk.getState();
    expect([now.title, now.notes, server.study.notes]).toEqual(["Better", "kept", "kept"]);
    expect(refused.map((r) => [r.what, r.sentence])).toEqual([
      ["added D", "Not that."],
      ["range of D", expect.stringMatching(/^It rests on a change that was refused\. .+\.$/)],
    ]);
    for (const r of refused) desk.getState().letGo(r);
    expect([desk.getState().refused.length, desk.getState().saved, kept.size]).toEqual([0, "saved", 0]);
  });

  it("gives every factor a place in the probe, whatever is added", async () => {
    const study = opened();
    fakeServer(study);
    const desk = createDesk("s", 1, study);
    expect(desk.getState().probe).toEqual({ a: 5, c: "x" });
    desk.getState().commit(
      [
        edit(study, ["factors", "b"], {
          id: "b",
          letter: "C",
          name: "B",
          kind: "continuous",
          low: 0,
          high: 4,
          scale: "linear",
          change: "easy",
        }),
      ],
      "added",
    );
    expect(desk.getState().probe).toEqual({ a: 5, c: "x", b: 2 });
    desk.getState().pin();
    desk.getState().setProbe({ a: 1, c: "y", b: 3 });
    expect(desk.getState().pins).toEqual([{ a: 5, c: "x", b: 2 }]);
    desk.getState().unpin(0);
    expect(desk.getState().pins).toEqual([]);
    await settle();
  });

  it("saves on top of what programs enter meanwhile, and keeps the way back", async () => {
    const study = opened();
    const server = fakeServer(study);
    const desk = createDesk("s", 1, study);
    desk.getState().commit([edit(study, ["title"], "Mine")], "renamed");
    server.elsewhere([edit(study, ["notes"], "theirs")]);
    desk.getState().commit([edit(desk.getState().study, ["confidence"], 0.9)], "confidence");
    await settle();
    const { study: mine, confirmed, revision, saved, clashes } = desk.getState();
    expect([saved, revision, clashes]).toEqual(["saved", 4, []]);
    expect(mine).toMatchObject({ title: "Mine", notes: "theirs", confidence: 0.9 });
    expect(mine).toEqual(server.study);
    expect(confirmed).toEqual(server.study);
    desk.getState().undo();
    desk.getState().undo();
    await settle();
    expect(server.study).toMatchObject({ title: "Opened", notes: "theirs", confidence: 0.95 });
  });

  it("takes up what was changed elsewhere, as changes or whole; not while something waits, nor from another revision", async () => {
    const study = opened();
    const server = fakeServer(study);
    const desk = createDesk("s", 1, study);
    const changes = [edit(study, ["notes"], "theirs")];
    server.elsewhere(changes);
    desk.getState().overtake({ since: 1, revision: 2, changes });
    expect([desk.getState().study.notes, desk.getState().revision]).toEqual(["theirs", 2]);
    // Told twice, or from a revision that is past, it changes nothing.
    desk.getState().overtake({ since: 1, revision: 2, changes });
    expect(desk.getState().revision).toBe(2);
    server.elsewhere([edit(server.study, ["title"], "Whole")]);
    desk.getState().overtake({ since: 2, revision: 3, study: server.study });
    expect(desk.getState().study.title).toBe("Whole");
    desk.getState().commit([edit(desk.getState().study, ["notes"], "mine")], "note");
    desk.getState().overtake({ since: 3, revision: 4, changes: [edit(server.study, ["title"], "Later")] });
    expect(desk.getState().study).toMatchObject({ title: "Whole", notes: "mine" });
    await settle();
    expect(server.study).toMatchObject({ title: "Whole", notes: "mine" });
  });
});
