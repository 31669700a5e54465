import { describe, expect, it } from "vitest";
import { answerOf, questionOf, statisticOf } from "./answers";
import { english } from "./english";
import type { CheckId, CheckValues, Language, Said } from "./language";

const LONG = "Residual moisture of the outermost layer of leaves on the lowest tray, second pass";

/** Values that words must stand: one and many, nothing, huge, tiny, below zero, long names. */
const judged = (p: number) => ({ p, adjusted: Math.min(1, 9 * p) });
const EXTREMES = [
  { n: 1, v: 0, p: 0 },
  { n: 2, v: -0, p: 1 },
  { n: 20_000, v: 123_456.789, p: 0.04999 },
  { n: 7, v: -0.0004, p: 3e-12 },
];

/** Every code with every extreme. */
function everything(): Said<CheckValues>[] {
  return EXTREMES.flatMap(({ n, v, p }): Said<CheckValues>[] => {
    const j = judged(p);
    const names = n === 1 ? ["Heat"] : [LONG, "Dose", "Heat"];
    const sides = { factor: LONG, wide: "hill", narrow: "lowland", ratio: Math.abs(v) + 1 };
    const copies = { orders: n === 1 ? [1] : [1, 22, 333], s: Math.abs(v), pooled: Math.abs(v), among: n, ...j };
    const unit = n === 2 ? "" : "%";
    return [
      { code: "too-few", values: {} },
      { code: "bell-fine", values: { n, ...j } },
      { code: "bell-perhaps", values: j },
      { code: "bell-off", values: j },
      { code: "spread-fine", values: j },
      { code: "spread-perhaps", values: j },
      { code: "spread-off", values: j },
      { code: "spread-factor-fine", values: { factor: LONG, among: n, ratio: 2.34, ...j } },
      { code: "spread-factor-perhaps", values: { ...sides, ...j } },
      { code: "spread-factor-off", values: { ...sides, ...j } },
      { code: "order-fine", values: { hidden: Math.abs(v), unit, ...j } },
      { code: "order-perhaps", values: { slope: v, unit, ...j } },
      { code: "order-off", values: { slope: v, unit, ...j } },
      { code: "neighbours-fine", values: j },
      { code: "neighbours-perhaps", values: { alike: n > 2, ...j } },
      { code: "neighbours-off", values: { alike: n > 2, ...j } },
      { code: "single-fine", values: { largest: 2.04, ...j } },
      {
        code: "single-perhaps",
        values: { trials: Array.from({ length: Math.min(3, n) }, (_, i) => ({ order: i + 1, size: 3.8 })), ...j },
      },
      { code: "single-off", values: { order: n, size: 12.34, n, ...j } },
      { code: "single-all", values: { order: n } },
      { code: "pull-fine", values: { distance: Math.abs(v), ...j } },
      { code: "pull-perhaps", values: { order: n, distance: Math.abs(v), ...j } },
      { code: "pull-off", values: { order: n, distance: Math.abs(v), ...j } },
      { code: "bend-centre-fine", values: { hidden: Math.abs(v), unit, p } },
      { code: "bend-centre-off", values: { size: v, unit, p } },
      { code: "bend-or-shift", values: { p: n === 1 ? null : p } },
      { code: "bend-fine", values: { factors: names, hidden: Math.abs(v), unit, among: n, ...j } },
      { code: "bend-perhaps", values: { factors: names, size: v, unit, squareP: p, ...j } },
      { code: "bend-off", values: { factors: names, size: v, unit, squareP: p, ...j } },
      { code: "bend-untold", values: {} },
      { code: "bend-carried", values: {} },
      { code: "scale-fine", values: { low: -0.04, high: v === 0 ? 0 : 2 } },
      { code: "scale-hardly", values: { low: -2, high: -0.5, ratio: 2.9 } },
      { code: "scale-other", values: { low: -2, high: -0.5, scale: n === 1 ? "none" : "log" } },
      { code: "scale-below-zero", values: {} },
      { code: "copies-fine", values: copies },
      { code: "copies-perhaps", values: copies },
      { code: "copies-off", values: copies },
      {
        code: "waves-differ",
        values: { above: LONG, below: "Wave 1", size: Math.abs(v), interval: n === 1 ? null : [v, v + 1], unit, p },
      },
      {
        code: "waves-alike",
        values: { p, above: "Wave 2", below: "Wave 1", interval: n === 1 ? null : [-1, v], unit },
      },
    ];
  });
}

describe("words of the checks", () => {
  it("every code there is has been tried", () =>
    expect(new Set(everything().map((s) => s.code))).toEqual(new Set(Object.keys(english.checks))));
  it("no “1 trials”, no −0, no exponents below a million, nothing undefined, one sentence that ends", () => {
    for (const said of everything()) {
      const text = answerOf({ ...said, approximate: false });
      expect(text, said.code).not.toMatch(
        /\b1 (trials|checks|terms)\b|\btrial \d+ and|undefined|NaN|null|Infinity|\[object/,
      );
      expect(text, said.code).not.toMatch(/[-−]0(?![.\d])/);
      expect(text, said.code).not.toMatch(/\de[+-]?\d/);
      expect(text, said.code).toMatch(/[.)]$/);
      expect(text, said.code).not.toMatch(/ {2,}| [,.;)]/);
    }
  });
  it("an approximate p is called so", () =>
    expect(answerOf({ code: "bell-fine", values: { n: 9, p: 0.4, adjusted: 1 }, approximate: true })).toMatch(
      /p approximate: the model was chosen on these results\)$/,
    ));
  it("a second language is a second set of words: every sentence comes from it alone", () => {
    const marked = (text: string): string => `⟦${text}⟧`;
    const pseudo: Language = {
      checks: Object.fromEntries(
        Object.keys(english.checks).map((code) => [code, (v: object) => marked(`${code} ${Object.keys(v).length}`)]),
      ) as unknown as Language["checks"],
      questions: Object.fromEntries(
        Object.keys(english.questions).map((id) => [id, marked(id)]),
      ) as Language["questions"],
      statistics: Object.fromEntries(
        Object.keys(english.statistics).map((id) => [id, marked(id)]),
      ) as Language["statistics"],
      approximate: marked("≈"),
    };
    for (const said of everything())
      expect(answerOf({ ...said, approximate: true }, pseudo)).toMatch(/^⟦[a-z-]+ \d+⟧ \(⟦≈⟧\)$/);
    for (const id of Object.keys(english.questions) as CheckId[]) {
      expect(questionOf(id, pseudo)).toBe(marked(id));
      expect(statisticOf(id, pseudo)).toBe(marked(id));
      expect(questionOf(id)).toMatch(/\?$/);
    }
  });
});
