import { describe, expect, it } from "vitest";
import { hardestResponse, judgedResponses } from "../study/judged";
import type { Study } from "../study/schema";
import { saidBy } from "../testing/fires";
import { plainStudy } from "../testing/studies";
import { messageText } from "../words/answers";
import { questionReadings } from "./question";
import { reportReadings } from "./report";

const study: Study = plainStudy(2, {
  responses: [
    { id: "p", name: "Strength" },
    { id: "q", name: "Colour" },
  ],
  waves: [{ id: "w" }],
  trials: [{ id: "t1", wave: "w", state: "done", settings: { a: 1, b: 1 }, results: { p: 1, q: 2 } }],
});
const ids = (s: Study, tested: Parameters<typeof reportReadings>[1]): string[] =>
  reportReadings(s, tested).map((r) => r.id);

describe("what stands between a study and handing it on", () => {
  const chosen: Study = { ...study, setpoint: { settings: { a: 0, b: 0 }, held: [] } };
  it("a setpoint that is missing, not confirmed, or contradicted", () => {
    expect(ids(study, null)).toContain("no-setpoint");
    expect(ids(chosen, undefined)).not.toContain("unconfirmed");
    expect(messageText("readings", reportReadings(chosen, null)[0])).toMatch(/not been confirmed/);
    expect(messageText("readings", reportReadings(chosen, { agrees: null, meetsLimits: null })[0])).toMatch(
      /not been confirmed/,
    );
    expect(messageText("readings", reportReadings(chosen, { agrees: false, meetsLimits: true })[0])).toMatch(
      /does not agree/,
    );
    expect(ids(chosen, { agrees: true, meetsLimits: true })).not.toContain("unconfirmed");
  });
  it("responses without a model, by name", () => {
    const text = (s: Study) => saidBy(reportReadings(s, null).find((r) => r.id === "unmodelled"));
    expect(text(study)).toBe("Strength and Colour have no chosen model and are left out.");
    const half: Study = {
      ...study,
      models: [{ response: "p", terms: [["a"]], transform: "none", block: true, curvature: true }],
    };
    expect(text(half)).toBe("Colour has no chosen model and is left out.");
    expect(text({ ...study, trials: [] })).toBeUndefined();
  });
});

describe("the response that plans are judged by first", () => {
  const stated = (noises: [number | undefined, number | undefined][]): Study =>
    plainStudy(2, {
      responses: noises.map(([noise, smallest], i) => ({
        id: `y${i}`,
        name: `Response ${i}`,
        ...(noise === undefined ? {} : { noise }),
        ...(smallest === undefined ? {} : { smallest }),
      })),
    });
  it.each<[[number | undefined, number | undefined][], string | undefined]>([
    [
      [
        [1, 4],
        [1, 2],
        [2, 5],
      ],
      "y1",
    ],
    [
      [
        [1, undefined],
        [undefined, 1],
      ],
      "y0",
    ],
    [
      [
        [1, 3],
        [2, 6],
      ],
      "y0",
    ],
    [
      [
        [1, 3],
        [4, 2],
      ],
      "y1",
    ],
    [[[undefined, 3]], undefined],
  ])("of noise and smallest change %j it is %s", (noises, id) => {
    expect(hardestResponse(stated(noises))?.id).toBe(id);
  });
  it("is one of those whose noise is stated, and the one that Question names", () => {
    const s = stated([
      [1, 3],
      [4, 2],
      [undefined, 1],
    ]);
    expect(judgedResponses(s).map((r) => r.id)).toEqual(["y0", "y1"]);
    const all = stated([
      [1, 3],
      [4, 2],
    ]);
    const named = questionReadings(all).find((r) => r.id === "hardest");
    expect(named?.about).toBe(hardestResponse(all)?.id);
    expect(named && messageText("readings", named)).toContain("0.5 times its noise");
  });
  it("is nothing to name where there is one response, or two are alike", () => {
    const named = (noises: [number, number][]) => questionReadings(stated(noises)).some((r) => r.id === "hardest");
    expect(named([[1, 3]])).toBe(false);
    // Changes of 2 at noise 1 and of 4 at noise 2 are as hard to see.
    expect(
      named([
        [1, 2],
        [2, 4],
      ]),
    ).toBe(false);
  });
});
