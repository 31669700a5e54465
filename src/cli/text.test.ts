import { readFileSync } from "node:fs";
import { describe, expect, it } from "vitest";
import { readStudyFile } from "@/core/formats";
import { adoptPlan, makePlan } from "@/core/plans";
import { ask, finish, openQuestions, type QuestionId } from "@/core/questions";
import { parseStudy, reviseStudy, type Study, StudyError } from "@/core/study";
import { AWKWARD, INPUTS } from "@/core/testing/awkward";
import { textOf } from "./text";

const example = (name: string): Study => readStudyFile(readFileSync(`examples/${name}.trialmoor.json`, "utf8"));
const told = (id: string, study: Study, input: object): string =>
  textOf(id as QuestionId, study, finish(ask(id as QuestionId, study, input)) as never);

/** y = 5 + 2a − b + ab, ±0.1 at right angles to all of them: every figure is exact. */
const exact: Study = parseStudy({
  format: "trialmoor-study",
  version: 1,
  title: "t",
  factors: ["a", "b", "c"].map((id) => ({ id, name: id.toUpperCase(), kind: "continuous", low: -1, high: 1 })),
  responses: [{ id: "y", name: "Yield", unit: "kg", goal: { aim: "raise", low: 4, high: 9 } }],
  waves: [{ id: "w" }],
  trials: Array.from({ length: 8 }, (_, i) => {
    const [a, b, c] = [0, 1, 2].map((j) => ((i >> j) & 1 ? 1 : -1));
    return {
      id: `t${i}`,
      wave: "w",
      state: "done",
      settings: { a, b, c },
      results: { y: 5 + 2 * a - b + a * b + 0.1 * a * c },
    };
  }),
  models: [{ response: "y", terms: [["a"], ["b"], ["a", "b"]] }],
});

describe("text at a terminal", () => {
  it.each(openQuestions().map((q) => q.id))("%s is readable on its example", (id) => {
    const question = openQuestions().find((q) => q.id === id);
    if (!question) throw new Error(id);
    let study = example(question.example.study);
    for (const { question: before, input } of question.example.after ?? []) {
      const answer = finish(ask(before as QuestionId, study, input));
      const edits = openQuestions()
        .find((q) => q.id === before)
        ?.takeUp?.edits(study, input as never, answer as never);
      study = reviseStudy(study, edits ?? []);
    }
    const text = told(id, study, question.example.input);
    expect(text).not.toMatch(/NaN|undefined|\[object|Infinity|e[+-]\d{3}/);
    expect(text.split("\n").every((line) => line === line.trimEnd())).toBe(true);
    // A person reads it: no figure has more than six digits that count.
    expect(text).not.toMatch(/[1-9]\d*\.\d{6,}|\.0*[1-9]\d{6,}/);
  });
  it("of a fit has the coefficients, their errors and the summary", () => {
    const text = told("fit", exact, { response: "y" });
    // s² = 8·0.01/4, standard errors s/√8 = 0.05.
    for (const figure of ["0.05", "5", "2", "-1"]) expect(text.replaceAll("−", "-")).toContain(figure);
    const line = text.split("\n").find((l) => /^A\s/.test(l)) ?? "";
    expect(line.trim().split(/\s+/).slice(0, 3)).toEqual(["A", "2", "0.05"]);
    expect(text).toMatch(/^Yield: 8 trials|^y: 8 trials/m);
  });
  it("of a plan in set-ups says which trials share one, what is told between them and on how much", () => {
    // Two set-ups of either a: on their mean squares two degrees of freedom; b and c within, 8 − 4 − 2.
    const hard = parseStudy({
      ...exact,
      factors: exact.factors.map((f) => (f.id === "a" ? { ...f, change: "hard" as const } : f)),
      waves: [],
      trials: [],
      models: [],
    });
    const text = told("plan", hard, { family: "factorial", setups: 4, eta: 2 });
    expect(text).toMatch(/^order +standard +wave +setup +kind +a +b +c$/m);
    expect(text).toMatch(
      /^4 set-ups, variance between them 2 times that within; degrees of freedom: between \d, within \d; told between: A/m,
    );
    const ledger = adoptPlan(hard, makePlan(hard, { family: "factorial", setups: 4 }));
    expect(told("appraise", ledger, { terms: "main" })).toMatch(/^A +clear, between +0\.00 +\S+ +2 +1$/m);
  });
  it("of an appraisal says which terms it was judged by", () => {
    expect(told("appraise", exact, { terms: "main" })).toMatch(/^judged by 3 terms, as asked: A B C$/m);
    expect(told("appraise", exact, {})).toMatch(/^judged by 3 terms, of the stored models: A B AB$/m);
    // Eight orthogonal runs: every efficiency is full.
    expect(told("appraise", exact, { terms: "main" })).toMatch(/D 100\s+A 100\s+G 100/);
  });
  it("of a prediction has mean and intervals in the response's unit", () => {
    const text = told("predict", exact, { at: { a: 1, b: -1, c: 0 } });
    expect(text).toContain("7");
    expect(text).toContain("kg");
  });
  it("of power names what was solved", () => {
    // Two-sided 5 %, power 80 %, one replicate of eight runs: more than the normal's 2.8·2σ/√8.
    const text = told("power", exact, { noise: 1, power: 0.8, replicates: 1 });
    const solved = Number(/effect[^\d]*([\d.]+)/.exec(text)?.[1]);
    expect(solved).toBeGreaterThan((2.8 * 2) / Math.sqrt(8));
    expect(solved).toBeLessThan((2 * 2.8 * 2) / Math.sqrt(8));
  });
  it("of a setpoint has settings, predicted values and desirability", () => {
    const text = told("setpoint", exact, { draws: 500 });
    // 5 + 2a − b + ab at a = 1 is 7 whatever b is: (7 − 4)/(9 − 4).
    expect(text).toMatch(/^exact\s+1\s+\S+\s+\S+\s+7\s+0\.6000\s/m);
  });
});

describe("text of awkward studies", () => {
  let answers = 0;
  it.each(Object.entries(AWKWARD))("%s: a figure that is none is said in words or left out", (_, study) => {
    for (const [id, inputs] of Object.entries(INPUTS))
      for (const input of inputs) {
        let text = "";
        try {
          text = told(id, study, input);
        } catch (error) {
          if (!(error instanceof StudyError)) throw error;
          continue;
        }
        answers++;
        expect(text, `${id} ${JSON.stringify(input)}`).not.toMatch(
          /\bNaN\b|\bundefined\b|Infinity|\bnull\b|\[object|−0(?![.\d])|-0(?![.\d])/,
        );
      }
  });
  it("is made for most of them", () => expect(answers).toBeGreaterThan(60));
});
