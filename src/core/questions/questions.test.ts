import { readFileSync } from "node:fs";
import { describe, expect, it } from "vitest";
import { readStudyFile } from "../formats/study-file";
import { reviseStudy } from "../study/revise";
import type { Study } from "../study/schema";
import { parseStudy } from "../study/validate";
import { cont, plainStudy, refusal, studyOf } from "../testing/studies";
import { ask, finish, type OpenQuestion, openQuestions, type QuestionId, questionNamed } from "./ask";

const example = (name: string): Study =>
  readStudyFile(readFileSync(new URL(`../../../examples/${name}.trialmoor.json`, import.meta.url), "utf8"));

/** The study of a question's example, with the answers of earlier questions taken up. */
/** A question of every door, by its id. */
const open = (id: string): OpenQuestion => openQuestions().find((q) => q.id === id) as OpenQuestion;

function prepared(id: string): Study {
  const { example: call } = open(id);
  let study = example(call.study);
  for (const { question, input } of call.after ?? []) {
    const answer = finish(ask(question as QuestionId, study, input));
    const edits = questionNamed(question).takeUp?.edits(study, input as never, answer as never) ?? [];
    study = reviseStudy(study, edits);
  }
  return study;
}

describe("every question of the table", () => {
  it.each(openQuestions().map((q) => q.id))("%s answers its example in its shape, every key there", (id) => {
    const question = open(id);
    const answer = finish(ask(id as QuestionId, prepared(id), question.example.input));
    const parsed = question.answer.safeParse(JSON.parse(JSON.stringify(answer)));
    expect(parsed.error?.issues.slice(0, 3)).toBeUndefined();
  });
  it.each(openQuestions().flatMap((q) => (q.takeUp ? [q.id] : [])))(
    "%s can be taken up, and the study stays whole",
    (id) => {
      const study = prepared(id);
      const { example: call, takeUp } = open(id);
      const answer = finish(ask(id as QuestionId, study, call.input));
      const edits = takeUp?.edits(study, call.input as never, answer as never) ?? [];
      expect(edits.length).toBeGreaterThan(0);
      expect(parseStudy(JSON.parse(JSON.stringify(reviseStudy(study, edits)))).title).toBe(study.title);
    },
  );
  it("refuses what it does not know by name", () => {
    expect(refusal(() => questionNamed("constructor"))).toContain(
      "There is no question “constructor”; there are plan,",
    );
    expect(refusal(() => ask("fit", plainStudy(2), { response: "y", colour: "red" }))).toContain("colour is not a key");
    expect(refusal(() => ask("fit", plainStudy(2), { response: "y", reduce: "sideways" }))).toContain(
      "choose one of backward, forward, both",
    );
  });
});

describe("what is left out is filled in once", () => {
  it("appraise judges the stored models' terms and says so; without models what the wave was planned to tell", () => {
    const wool = example("wool-scouring");
    const modelled = finish(ask("appraise", wool, {}));
    expect(modelled.termsFrom).toBe("models");
    expect(modelled.terms).toContainEqual(["temp", "dose"]);
    const composite = { ...plainStudy(3), waves: [], trials: [] };
    const planned = finish(ask("plan", composite, { family: "composite", centre: 4 }));
    expect([planned.appraisal.termsFrom, planned.appraisal.terms.length]).toEqual(["plan", 9]);
    const asked = finish(ask("plan", composite, { family: "composite", centre: 4, terms: "main" }));
    expect([asked.appraisal.termsFrom, asked.appraisal.terms.length]).toEqual(["asked", 3]);
  });
  it("terms that are in the model are no possible terms beside it, at any door", () => {
    const study = reviseStudy(plainStudy(3), []);
    const plan = finish(ask("plan", study, { family: "factorial" }));
    const full = reviseStudy(study, questionNamed("plan").takeUp?.edits(study, {} as never, plan as never) ?? []);
    const a = finish(ask("appraise", full, { terms: "main", possible: "main+2fi" }));
    expect(a.map.map((m) => m.state)).toEqual(Array(6).fill("clear"));
    expect(a.alias.columns).toEqual([
      ["a", "b"],
      ["a", "c"],
      ["b", "c"],
    ]);
  });
  it("setpoint holds what the study holds unless told otherwise", () => {
    const wool = example("wool-scouring");
    const held: Study = {
      ...wool,
      setpoint: { settings: { ...wool.setpoint?.settings, lot: "lowland" }, held: ["lot"] },
    };
    const found = finish(ask("setpoint", held, { draws: 200 }));
    expect([found.settable.settings.lot, found.held]).toEqual(["lowland", { lot: "lowland" }]);
    expect(finish(ask("setpoint", held, { draws: 200, hold: {} })).held).toEqual({});
  });
});

describe("options that do not apply are refused", () => {
  it.each([
    [
      "plan",
      { family: "composite", generators: "C=AB" },
      "Central composite (composite) takes no “generators”; besides",
    ],
    ["plan", { family: "factorial", foldOver: true }, "takes no “foldOver”"],
    ["fit", { response: "y", by: "aicc" }, "“by” says how to reduce a model; give reduce with it"],
    ["fit", { response: "y", hierarchy: "weak" }, "“hierarchy” says how to reduce"],
    ["plan", { family: "fraction" }, "needs a number of trials (or generators)"],
    ["follow", { kind: "augment" }, "needs a number of trials"],
    ["power", { effect: 1, noise: 1 }, "2 were given"],
  ])("%s %j", (id, input, said) =>
    expect(refusal(() => finish(ask(id as QuestionId, plainStudy(3), input)))).toContain(said),
  );
});

describe("an alias matrix", () => {
  it("names the level of each row of a category", () => {
    const study = studyOf([cont("a"), { id: "k", kind: "categorical", levels: ["p", "q", "r"] }]);
    const plan = finish(ask("plan", study, { family: "factorial", terms: "main", possible: "main+2fi" }));
    expect(plan.appraisal.alias.rows).toEqual([[], ["a"], ["k"], ["k"]]);
    expect(plan.appraisal.alias.rowLevels).toEqual([null, null, "p", "q"]);
    expect(plan.appraisal.alias.columnLevels).toEqual(["p", "q"]);
  });
});
