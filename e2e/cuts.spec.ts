import { parseStudy } from "../src/core/study";
import { createBench } from "../src/stations/bench/queue";
import { expect, importStudy, stored, test, WORKED_OUT } from "./help";

const TRIALS = 60;

/** Numbers in [0, 1) that are the same each time (Park and Miller 1988). */
function randoms(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state * 16807) % 2147483647;
    return state / 2147483647;
  };
}

test("two hundred cuts of the network while two tablets enter: nothing lost, nothing twice, each cell as it was last entered", async ({
  page,
  baseURL,
}) => {
  const id = await importStudy(page, {
    factors: [{ id: "bowl", kind: "continuous", low: 52, high: 68 }],
    responses: [{ id: "white" }, { id: "grease" }],
    waves: [{ id: "w" }],
    trials: Array.from({ length: TRIALS }, (_, i) => ({ id: `t${i}`, wave: "w", settings: { bowl: 52 } })),
  });
  const random = randoms(20260101);
  const cuts = { before: 0, after: 0, torn: 0, short: 0 };
  const asked = globalThis.fetch;
  // Over the wire to the server as it runs.
  globalThis.fetch = async (path, init) => {
    const fate = random();
    if (fate < 0.25) {
      cuts.before++;
      throw new TypeError("cut before it was sent");
    }
    if (fate < 0.35) {
      // The connection is torn while the server may be at work on it.
      cuts.torn++;
      const client = new AbortController();
      setTimeout(() => client.abort(), 8 * random());
      return asked(`${baseURL}${path}`, { ...init, signal: client.signal });
    }
    const answer = await asked(`${baseURL}${path}`, init);
    if (fate < 0.5) {
      cuts.short++;
      // The head of the answer comes, its body breaks off.
      const body = new ReadableStream({
        start(controller) {
          controller.enqueue(new TextEncoder().encode('{"revision":'));
          controller.error(new TypeError("cut within the answer"));
        },
      });
      return new Response(body, { status: answer.status });
    }
    if (fate < 0.65) {
      cuts.after++;
      throw new TypeError("cut before the answer came");
    }
    return answer;
  };
  try {
    const { study, revision } = await stored(page, id);
    const tablets = [0, 1].map(() => createBench(id, revision, parseStudy(study), 10));
    const entered: Record<string, number>[] = [{}, {}];
    let entries = 0;
    for (let i = 0; i < TRIALS; i++) {
      for (const [n, tablet] of tablets.entries()) {
        // Each tablet has a response of its own; now and then a figure is mended at once.
        const of = ["white", "grease"][n];
        for (let times = random() < 0.3 ? 2 : 1; times > 0; times--) {
          const value = Math.round(1e4 * random()) / 100;
          tablet.getState().note(`t${i}`, { cell: "results", of, value });
          entered[n][`t${i}`] = value;
          entries++;
        }
      }
      await new Promise((done) => setTimeout(done, 10 * random()));
    }
    await expect.poll(() => tablets.map((t) => t.getState().waiting.length), { timeout: WORKED_OUT }).toEqual([0, 0]);
    for (const tablet of tablets) expect([tablet.getState().refused, tablet.getState().clashes]).toEqual([[], []]);
    const { study: now, revision: last } = await stored(page, id);
    const after = now.trials;
    for (const [n, of] of ["white", "grease"].entries())
      expect(Object.fromEntries(after.map((t) => [t.id, t.results[of]]))).toEqual(entered[n]);
    expect(cuts.before + cuts.after + cuts.torn + cuts.short).toBeGreaterThan(200);
    expect(Math.min(...Object.values(cuts))).toBeGreaterThan(20);
    // Each entry is one change of the study: none was taken in twice.
    expect(last).toBe(revision + entries);
  } finally {
    globalThis.fetch = asked;
  }
});
