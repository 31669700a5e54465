import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { edit, parseStudy, reviseStudy, type Study } from "@/core";
import { createDesk } from "./store";

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
  const state = { revision: 1, study, calls: 0, down: false };
  const answer = (status: number, body: object): Response =>
    new Response(JSON.stringify(body), { status, headers: { "content-type": "application/json" } });
  const handler = vi.fn(async (_url: string, init?: { method?: string; body?: string }) => {
    if (state.down) throw new TypeError("no network");
    if (init?.method !== "PATCH") return answer(200, { revision: state.revision, study: state.study });
    state.calls++;
    const { revision, edits } = JSON.parse(init.body ?? "{}");
    if (revision !== state.revision)
      return answer(409, { detail: "stale", revision: state.revision, study: state.study });
    try {
      state.study = reviseStudy(state.study, edits);
    } catch (error) {
      return answer(422, { detail: (error as Error).message });
    }
    state.revision++;
    return answer(200, { revision: state.revision });
  });
  vi.stubGlobal("fetch", handler);
  return state;
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
    server.study = reviseStudy(study, [edit(study, ["title"], "Theirs"), edit(study, ["notes"], "their note")]);
    server.revision = 5;
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
});
