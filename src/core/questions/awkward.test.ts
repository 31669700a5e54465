import { describe, expect, it } from "vitest";
import { StudyError } from "../study/error";
import { AWKWARD, INPUTS } from "../testing/awkward";
import { ask, finish, openQuestions, type QuestionId } from "./ask";

// A question put to a study that can hardly answer it either answers with figures and nulls or refuses in one sentence:
// no NaN, no infinity that is lost on the way to a client, no error of the machine.

/** Where an answer holds a number that JSON cannot carry. */
function unsound(value: unknown, path = ""): string[] {
  if (typeof value === "number") return Number.isFinite(value) ? [] : [`${path}: ${value}`];
  if (value === undefined && path !== "") return [];
  if (typeof value !== "object" || value === null) return [];
  return Object.entries(value).flatMap(([key, v]) => unsound(v, `${path}/${key}`));
}
let answered = 0;
let refusedAtAll = 0;
const MACHINE = /NaN|undefined|\[object|Infinity|TypeError|null\b/;

describe.each(Object.entries(AWKWARD))("%s", (_, of) => {
  it.each(openQuestions().map((q) => q.id))("%s answers or refuses in a sentence", (id) => {
    for (const input of INPUTS[id]) {
      try {
        const answer = finish(ask(id as QuestionId, of, input));
        answered++;
        expect(unsound(answer)).toEqual([]);
        // A client reads what was meant: nothing is lost in writing it down.
        const written = JSON.parse(JSON.stringify(answer));
        expect(
          openQuestions()
            .find((q) => q.id === id)
            ?.answer.safeParse(written).error?.issues[0],
        ).toBeUndefined();
        const texts = JSON.stringify(written).match(/"text":"(?:[^"\\]|\\.)*"/g) ?? [];
        for (const text of texts) expect(text).not.toMatch(/NaN|undefined|\[object|Infinity/);
      } catch (error) {
        if (!(error instanceof StudyError)) throw error;
        refusedAtAll++;
        expect(error.message).toMatch(/^\S.*\.$/);
        expect(error.message).not.toMatch(MACHINE);
        expect(error.code).toMatch(/^[a-z-]+$/);
      }
    }
  });
});

it("a good part of them is answered, and a good part refused: both ways were looked at", () => {
  expect(answered).toBeGreaterThan(90);
  expect(refusedAtAll).toBeGreaterThan(90);
});

describe("what is asked wrongly", () => {
  const plain = AWKWARD["a saturated model"];
  const refused = (id: string, input: object): StudyError => {
    try {
      finish(ask(id as QuestionId, plain, input));
    } catch (error) {
      if (error instanceof StudyError) return error;
      throw error;
    }
    throw new Error(`${id} took ${JSON.stringify(input)}`);
  };
  it.each(openQuestions().map((q) => q.id))("%s refuses a key it does not have, by name", (id) => {
    const error = refused(id, { ...INPUTS[id][0], unheardOf: 1 });
    expect(`${error.message} ${error.path.join(" ")}`).toContain("unheardOf");
  });
  it.each(openQuestions().flatMap((q) => Object.keys(q.input).map((key) => [q.id, key] as const)))(
    "%s refuses an object where %s is asked, and says where",
    (id, key) => {
      const error = refused(id, { ...INPUTS[id][0], [key]: { no: { such: "thing" } } });
      expect(`${error.message} ${error.path.join(" ")}`).toContain(key);
      expect(error.message).toMatch(/\.$/);
    },
  );
  it.each(["fit", "subsets", "surface"])("%s names a response that is not there", (id) => {
    expect(refused(id, { ...INPUTS[id][0], response: "grip" }).message).toContain("“grip”");
  });
});
