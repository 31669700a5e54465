import { describe, expect, it } from "vitest";
import { ask, finish, type Progress, type QuestionInput, receiver } from "@/core/questions";
import { parseStudy } from "@/core/study";
import { asking, type Shown, type Worker } from "./asking";
import { askInSteps, type ComputeAnswer } from "./steps";

const study = parseStudy({
  format: "trialmoor-study",
  version: 1,
  title: "t",
  factors: ["a", "b", "c", "d"].map((id) => ({ id, kind: "continuous", low: -1, high: 1 })),
  responses: [{ id: "y" }],
});
const held = receiver()(study);
const search = (starts: number, seed = 1) =>
  ({ family: "optimal", trials: 18, terms: "quadratic", starts, seed }) as QuestionInput<"plan">;

describe("a question in a worker", () => {
  it("answers as the question itself does", async () => {
    const answer = await askInSteps("plan", held, search(3));
    expect(answer).toEqual({ state: "done", value: finish(ask("plan", study, search(3))) });
  });
  it("takes the study as plain data, and refuses in a sentence what it does not allow", async () => {
    const plain = receiver()(structuredClone(study));
    expect((await askInSteps("plan", plain, search(1))).state).toBe("done");
    const faulty = await askInSteps("fit", plain, { response: "z" });
    expect(faulty.state).toBe("refused");
    expect(faulty.state === "refused" ? faulty.message : "").toMatch(/no response .*z/i);
  });
  it("stops when it is told to, with the best so far and how far it came", async () => {
    let told = 0;
    const answer = await askInSteps("plan", held, search(100_000), async () => ++told === 3);
    expect(told).toBe(3);
    expect(answer.state).toBe("done");
    const { trials, recipe } = (answer as { value: { trials: unknown[]; recipe: { starts: number } } }).value;
    expect(trials).toHaveLength(18);
    expect(recipe.starts).toBeLessThan(100_000);
  });
  it("tells progress that only grows", async () => {
    const shares: number[] = [];
    await askInSteps("plan", held, search(60), async (p) => {
      shares.push(p.done);
      return false;
    });
    expect(shares.length).toBeGreaterThan(0);
    expect(shares).toEqual([...shares].sort((a, b) => a - b));
  });
});

/** A worker whose answers come when the test says so. */
function holding() {
  const calls: {
    input: QuestionInput<"plan">;
    tell(p: Progress): boolean;
    answer(a: ComputeAnswer): Promise<void>;
    fail(): Promise<void>;
  }[] = [];
  const settled = (): Promise<void> => new Promise((r) => setTimeout(r, 0));
  const worker: Worker<"plan"> = (_, __, input, tell) =>
    new Promise((resolve, reject) => {
      calls.push({
        input,
        tell,
        answer: (a) => {
          resolve(a);
          return settled();
        },
        fail: () => {
          reject(new Error("gone"));
          return settled();
        },
      });
    });
  let shown: Shown<"plan"> = { running: false, progress: undefined, result: undefined, trouble: undefined };
  const done: unknown[] = [];
  const told: Progress[] = [];
  const question = asking<"plan">(
    "plan",
    worker,
    (change) => {
      shown = change(shown);
    },
    { onDone: (v) => done.push(v), onProgress: (p) => told.push(p) },
  );
  return { calls, question, done, told, shown: () => shown };
}
const half: Progress = { done: 0.5, text: "half" };

describe("one question at a time", () => {
  it("shows that it runs, how far it is, and the answer", async () => {
    const t = holding();
    t.question.start(study, search(1));
    expect(t.shown().running).toBe(true);
    expect(t.calls[0].tell(half)).toBe(false);
    expect(t.shown().progress).toEqual(half);
    await t.calls[0].answer({ state: "done", value: "first" });
    expect(t.shown()).toEqual({ running: false, progress: undefined, result: "first", trouble: undefined });
    expect([t.done, t.told]).toEqual([["first"], [half]]);
  });
  it("a newer one supersedes: the older is told to stop, and what it still says is not shown", async () => {
    const t = holding();
    t.question.start(study, search(1));
    t.question.start(study, search(2));
    expect(t.calls[0].tell(half)).toBe(true);
    expect(t.shown().progress).toBeUndefined();
    await t.calls[0].answer({ state: "done", value: "old" });
    expect(t.shown()).toMatchObject({ running: true, result: undefined });
    expect(t.calls[1].tell(half)).toBe(false);
    await t.calls[1].answer({ state: "done", value: "new" });
    expect(t.shown()).toMatchObject({ running: false, result: "new" });
    expect(t.done).toEqual(["new"]);
  });
  it("an older one that comes late, after the newer, changes nothing", async () => {
    const t = holding();
    t.question.start(study, search(1));
    t.question.start(study, search(2));
    await t.calls[1].answer({ state: "done", value: "new" });
    await t.calls[0].answer({ state: "refused", message: "too late" });
    expect(t.shown()).toMatchObject({ running: false, result: "new", trouble: undefined });
    const u = holding();
    u.question.start(study, search(1));
    u.question.start(study, search(2));
    await u.calls[0].fail();
    expect(u.shown()).toMatchObject({ running: true, trouble: undefined });
  });
  it("stops when asked, and the next one is not stopped by that", async () => {
    const t = holding();
    t.question.start(study, search(1));
    t.question.stop();
    expect(t.calls[0].tell(half)).toBe(true);
    await t.calls[0].answer({ state: "stopped" });
    expect(t.shown()).toMatchObject({ running: false, trouble: undefined });
    t.question.start(study, search(2));
    expect(t.calls[1].tell(half)).toBe(false);
  });
  it("keeps the answer before in sight while a refusal or a failure is said", async () => {
    const t = holding();
    t.question.start(study, search(1));
    await t.calls[0].answer({ state: "done", value: "first" });
    t.question.start(study, search(2));
    expect(t.shown()).toMatchObject({ running: true, result: "first" });
    await t.calls[1].answer({ state: "refused", message: "There is no such term." });
    expect(t.shown()).toMatchObject({ running: false, result: "first", trouble: "There is no such term." });
    t.question.start(study, search(3));
    expect(t.shown().trouble).toBeUndefined();
    await t.calls[2].fail();
    expect(t.shown()).toMatchObject({ running: false, result: "first" });
    expect(t.shown().trouble).toMatch(/failed in the page; try again/);
  });
});
