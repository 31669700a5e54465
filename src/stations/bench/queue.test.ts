import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { parseStudy, type Study } from "@/core/study";

const device = new Map<string, unknown>();
vi.mock("idb-keyval", () => ({
  get: async (key: string) => structuredClone(device.get(key)),
  set: async (key: string, value: unknown) => void device.set(key, structuredClone(value)),
}));
const { createBench } = await import("./queue");

const study = (): Study =>
  parseStudy({
    format: "trialmoor-study",
    version: 1,
    title: "Bench",
    factors: [{ id: "a", kind: "continuous", low: 0, high: 1 }],
    responses: [{ id: "y" }, { id: "z" }],
    waves: [{ id: "w" }],
    trials: ["t1", "t2"].map((id, i) => ({ id, wave: "w", order: i + 1, settings: { a: i } })),
  });
const json = (status: number, body: object): Response => new Response(JSON.stringify(body), { status });
const soon = async (): Promise<void> => {
  for (let i = 0; i < 20; i++) await Promise.resolve();
  await new Promise((done) => setTimeout(done, 5));
};

beforeEach(() => {
  device.clear();
  vi.stubGlobal("localStorage", { getItem: () => null, setItem: () => undefined });
});
afterEach(() => vi.unstubAllGlobals());

describe("a bench on its device", () => {
  it("opened without the server knows what the server took since its page was kept", async () => {
    const at = study();
    const done = { ...at.trials[0], state: "done" as const, results: { y: 5 } };
    vi.stubGlobal("fetch", async () => json(200, { revision: 2, trial: done }));
    const first = createBench("s", 1, at);
    first.getState().note("t1", { cell: "results", of: "y", value: 5 });
    await soon();
    expect(first.getState().waiting).toEqual([]);
    // The page is as old as it was kept, and the network is away.
    vi.stubGlobal("fetch", async () => {
      throw new TypeError("no network");
    });
    const again = createBench("s", 1, at);
    await again.getState().resume();
    expect(again.getState().study.trials[0]).toMatchObject({ state: "done", results: { y: 5 } });
    expect(again.getState().revision).toBe(2);
    // A page that the server gave is newer than what the device kept.
    const newer = createBench("s", 3, { ...at, title: "Newer" });
    await newer.getState().resume();
    expect([newer.getState().study.title, newer.getState().revision]).toEqual(["Newer", 3]);
  });
  it("clashes of a trial are settled together, mine on top of what stands", async () => {
    const at = study();
    const theirs = { ...at.trials[0], state: "done" as const, results: { y: 1, z: 2 } };
    const sent: unknown[] = [];
    vi.stubGlobal("fetch", async (_url: string, init?: { body?: string }) => {
      if (!init?.body) return json(200, { revision: 4, study: { ...at, trials: [theirs, at.trials[1]] } });
      const entry = JSON.parse(init.body) as { of: string; value: number; was: number | null };
      sent.push(entry);
      if (entry.was === null) return json(409, { now: entry.of === "y" ? 1 : 2 });
      return json(200, { revision: 5, trial: { ...theirs, results: { ...theirs.results, [entry.of]: entry.value } } });
    });
    const bench = createBench("s", 1, at);
    bench.getState().note("t1", { cell: "results", of: "y", value: 8 });
    bench.getState().note("t1", { cell: "results", of: "z", value: 9 });
    await soon();
    expect(bench.getState().clashes).toHaveLength(2);
    bench.getState().settle(bench.getState().clashes, "mine");
    await soon();
    expect(bench.getState().clashes).toEqual([]);
    expect(sent.slice(2)).toMatchObject([
      { of: "y", value: 8, was: 1 },
      { of: "z", value: 9, was: 2 },
    ]);
  });
});
