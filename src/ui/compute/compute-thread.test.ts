import { expose } from "comlink";
import { afterEach, describe, expect, it } from "vitest";
import { parseStudy } from "@/core/study";
import type { ComputeWorker } from "./compute.worker";
import { computeThread, type RawWorker } from "./compute-thread";
import { asker } from "./steps";

const study = parseStudy({
  format: "trialmoor-study",
  version: 1,
  title: "t",
  factors: ["a", "b"].map((id) => ({ id, kind: "continuous", low: -1, high: 1 })),
  responses: [{ id: "y" }],
});
const ports: MessagePort[] = [];
afterEach(() => {
  for (const port of ports.splice(0)) port.close();
});

/** Workers on channels of this thread; one of them answers or stays silent, and fails when the test says so. */
function workers() {
  const made: { fail(): void; ended: boolean }[] = [];
  const start = (answers: boolean): RawWorker => {
    const { port1, port2 } = new MessageChannel();
    ports.push(port1, port2);
    port1.start();
    if (answers) expose({ ask: asker(), workbook: () => undefined } as unknown as ComputeWorker, port2);
    const heard: ((e: unknown) => void)[] = [];
    const one = { ended: false, fail: () => heard.forEach((f) => void f({ message: "gone" })) };
    made.push(one);
    return {
      postMessage: (m: unknown) => port1.postMessage(m),
      addEventListener: (type: string, f: never) =>
        type === "error" ? void heard.push(f) : port1.addEventListener(type, f),
      removeEventListener: (type: string, f: never) => port1.removeEventListener(type, f),
      terminate: () => {
        one.ended = true;
      },
    } as RawWorker;
  };
  return { made, start };
}
const bare = (w: Parameters<Parameters<ReturnType<typeof computeThread>["put"]>[0]>[0]) =>
  w.ask("plan", study, [], { family: "factorial" });

describe("a worker beside the page", () => {
  it("is one for all that is put to it, and another once it was ended", async () => {
    const { made, start } = workers();
    const thread = computeThread(() => start(true));
    expect(made).toHaveLength(0);
    const [one, two] = await Promise.all([thread.put(bare), thread.put(bare)]);
    expect([one.state, two.state, made.length]).toEqual(["done", "done", 1]);
    thread.end();
    expect(made[0].ended).toBe(true);
    expect((await thread.put(bare)).state).toBe("done");
    expect(made).toHaveLength(2);
  });
  it("that cannot be loaded refuses all that waits for it; the next thing put starts another", async () => {
    const { made, start } = workers();
    const thread = computeThread(() => start(made.length > 0));
    const waiting = [thread.put(bare), thread.put(bare)];
    made[0].fail();
    for (const one of waiting) await expect(one).rejects.toThrow("gone");
    expect(made[0].ended).toBe(true);
    expect((await thread.put(bare)).state).toBe("done");
    expect(made.map((m) => m.ended)).toEqual([true, false]);
    // The first says once more that it failed: the one that runs now is not ended by it.
    made[0].fail();
    expect(made[1].ended).toBe(false);
  });
});
