/**
 * What large counts cost: predict, surface, setpoint and fit of one study of counts, and of one of shares, with tens of
 * events a trial, with a hundred thousand and with ten million, in turns. The ratio of the quickest turns to those with
 * tens.
 * Run: npx tsx bench/count-cost.ts [turns]
 */
import { seededRandom } from "../src/core/numerics/random";
import { ask, finish } from "../src/core/questions/ask";
import type { Study } from "../src/core/study/schema";
import { parseStudy } from "../src/core/study/validate";

const TURNS = Number(process.argv[2] ?? 7);

/** A 2³ with centre and axial points, its events scattered by a third more than counting gives. */
function studyOf(measured: "count" | "share", events: number): Study {
  const random = seededRandom(4);
  const a = 1.2;
  const places = [
    ...[-1, 1].flatMap((x) => [-1, 1].flatMap((y) => [-1, 1].map((z) => [x, y, z]))),
    ...[0, 1, 2].flatMap((j) => [-a, a].map((v) => [0, 1, 2].map((i) => (i === j ? v : 0)))),
    [0, 0, 0],
    [0, 0, 0],
    [0, 0, 0],
  ];
  return parseStudy({
    format: "trialmoor-study",
    version: 1,
    title: "counts",
    factors: ["a", "b", "c"].map((id) => ({ id, kind: "continuous" as const, low: -1, high: 1 })),
    responses: [
      measured === "count"
        ? { id: "y", measured, of: 1, goal: { aim: "lower", low: 0.5 * events, high: 2 * events } }
        : { id: "y", measured, of: 10 * events, goal: { aim: "lower", low: 0.05, high: 0.2 } },
    ],
    waves: [{ id: "w" }],
    models: [{ response: "y", terms: [["a"], ["b"], ["c"], ["a", "b"], ["a", "a"]] }],
    trials: places.map(([x, y, z], i) => {
      const rate = events * Math.exp(0.3 * x - 0.2 * y + 0.1 * x * y + 0.1 * x * x);
      const drawn = Math.max(0, Math.round(rate + Math.sqrt(1.3 * rate) * random.normal()));
      return {
        id: `t${i}`,
        wave: "w",
        state: "done" as const,
        settings: { a: x, b: y, c: z },
        results: { y: { events: drawn, of: measured === "count" ? 1 : 10 * events } },
      };
    }),
  });
}

const ASKED = [
  ["predict", { at: { a: 0.3, b: -0.2, c: 0.5 } }],
  ["surface", { response: "y", at: { a: 0.3, b: -0.2, c: 0.5 } }],
  ["setpoint", { draws: 2000, seed: 1 }],
  ["fit", { response: "y" }],
] as const;
for (const measured of ["count", "share"] as const) {
  const studies = [30, 1e5, 1e7].map((events) => studyOf(measured, events));
  for (const [id, input] of ASKED) {
    const best = studies.map(() => Number.POSITIVE_INFINITY);
    for (let turn = 0; turn < TURNS; turn++)
      studies.forEach((study, k) => {
        const start = performance.now();
        finish(ask(id, study, input));
        best[k] = Math.min(best[k], performance.now() - start);
      });
    console.log(
      `${measured}, ${id}: ${best[0].toFixed(0)} ms with tens; × ${(best[1] / best[0]).toFixed(2)} with 10⁵, × ${(best[2] / best[0]).toFixed(2)} with 10⁷`,
    );
  }
}
