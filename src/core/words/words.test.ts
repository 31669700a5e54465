import { describe, expect, it } from "vitest";
import type { CheckId, CheckValues } from "../messages/checks";
import type { ActionId } from "../messages/readings";
import type { Said } from "../messages/said";
import { StudyError } from "../study/error";
import {
  changesAt,
  columnsAt,
  doubts,
  doubtsAt,
  EXTREMES,
  hazards,
  LONG,
  misfits,
  placesAt,
  reasons,
  refusalsAtExtremes,
  remarksAt,
  rowsAt,
  spotsAt,
  statements,
  typingsAt,
  waveNamesAt,
  workbooksAt,
} from "../testing/extremes";
import {
  actionOf,
  answerOf,
  changeText,
  columnOf,
  doubtText,
  placeOf,
  questionOf,
  refusalOf,
  remarkOf,
  riskOf,
  rowOf,
  sentenceOf,
  spotText,
  statisticOf,
  suspectOf,
  typingOf,
  unfitOf,
  waveNameOf,
  whyOf,
  workbookOf,
} from "./answers";
import { english } from "./english";
import type { Language } from "./language";

const judged = (p: number) => ({ p, adjusted: Math.min(1, 9 * p) });

/** Every code with every extreme. */
function everything(): Said<CheckValues>[] {
  return EXTREMES.flatMap(({ n, v, p }): Said<CheckValues>[] => {
    const j = judged(p);
    const names = n === 1 ? ["Heat"] : [LONG, "Dose", "Heat"];
    const sides = { factor: LONG, wide: "hill", narrow: "lowland", ratio: Math.abs(v) + 1 };
    const copies = {
      orders: n === 1 ? [1] : [1, 22, 333],
      s: Math.abs(v),
      pooled: Math.abs(v),
      among: n,
      overWaves: n > 1,
      ...j,
    };
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
      { code: "single-fine", values: { largest: 2.04, hidden: n > 2 ? Math.abs(v) : null, unit, ...j } },
      {
        code: "single-perhaps",
        values: { trials: Array.from({ length: Math.min(3, n) }, (_, i) => ({ order: i + 1, size: 3.8 })), ...j },
      },
      { code: "single-off", values: { order: n, size: 12.34, n, ...j } },
      { code: "single-all", values: { order: n } },
      {
        code: "pull-fine",
        values: { distance: Math.abs(v), hidden: n > 2 ? { order: n, size: Math.abs(v) } : null, unit, ...j },
      },
      { code: "setup-fine", values: { size: Math.abs(v), among: n, ...j } },
      { code: "setup-perhaps", values: { wave: LONG, setup: n, size: Math.abs(v), among: n, ...j } },
      { code: "setup-off", values: { wave: LONG, setup: n, size: Math.abs(v), among: n, ...j } },
      { code: "pull-perhaps", values: { order: n, distance: Math.abs(v), ...j } },
      { code: "pull-off", values: { order: n, distance: Math.abs(v), ...j } },
      { code: "bend-centre-fine", values: { hidden: Math.abs(v), unit, p } },
      { code: "bend-centre-off", values: { size: v, unit, p } },
      { code: "bend-centre-perhaps", values: { size: v, unit, ...j } },
      { code: "misfit-fine", values: { f: Math.abs(v), df: n, pureErrorDf: n, ...j } },
      { code: "misfit-perhaps", values: { f: Math.abs(v), df: n, pureErrorDf: n, ...j } },
      { code: "misfit-off", values: { f: Math.abs(v), df: n, pureErrorDf: n, ...j } },
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
      { code: "counting-fine", values: { times: v, p: 0.2, carried: n > 1 } },
      { code: "counting-more", values: { times: v, p: 0.2, carried: n > 1 } },
      { code: "counting-less", values: { times: v, p: 0.2, carried: n > 1 } },
      { code: "copies-fine", values: copies },
      { code: "copies-perhaps", values: copies },
      { code: "copies-off", values: copies },
      {
        code: "waves-differ",
        values: { above: LONG, below: "Wave 1", size: Math.abs(v), interval: n === 1 ? null : [v, v + 1], unit, p },
      },
      {
        code: "waves-alike",
        values: { p, above: "Wave 2", below: "Wave 1", interval: n === 1 ? null : [-1, v], unit, out: n > 1 },
      },
    ];
  });
}

/** A table of figures as what is said with them. */
const saidOf = <V extends object>(values: V): Said<V>[] =>
  Object.entries(values).map(([code, v]) => ({ code, values: v }) as Said<V>);

/** All that the core can say in a language, by the code behind it. */
function sentences(language: Language = english): [string, string][] {
  return EXTREMES.flatMap(({ n, v, p }) => [
    ...saidOf(statements(n, v, p)).map((s): [string, string] => [s.code, sentenceOf(s, language)]),
    ...saidOf(reasons(n, p)).map((s): [string, string] => [s.code, whyOf(s, language)]),
    ...saidOf(doubtsAt(v)).map((s): [string, string] => [s.code, doubtText(s, language)]),
    ...saidOf(spotsAt(n)).map((s): [string, string] => [s.code, spotText(s, language)]),
    ...saidOf(changesAt(n, v)).map((s): [string, string] => [s.code, changeText(s, language)]),
    ...saidOf(waveNamesAt(n)).map((s): [string, string] => [s.code, waveNameOf(s, language)]),
    ...saidOf(hazards(n, v)).map((s): [string, string] => [s.code, riskOf(s, language)]),
    ...saidOf(doubts(n, v, p)).map((s): [string, string] => [s.code, suspectOf(s, language)]),
    ...saidOf(misfits(n)).map((s): [string, string] => [s.code, unfitOf(s, language)]),
    ...saidOf(remarksAt(n, v)).map((s): [string, string] => [s.code, remarkOf(s, language)]),
    ...saidOf(placesAt(n, v)).map((s): [string, string] => [s.code, placeOf(s, language)]),
    ...saidOf(typingsAt(n, v)).map((s): [string, string] => [s.code, typingOf(s, language)]),
    ...saidOf(workbooksAt(n)).map((s): [string, string] => [s.code, workbookOf(s, language)]),
    ...saidOf(columnsAt(v)).map((s): [string, string] => [s.code, columnOf(s, language)]),
    ...saidOf(rowsAt(n)).map((s): [string, string] => [s.code, rowOf(s, language)]),
    ...refusalsAtExtremes(n, v).flatMap((values) =>
      saidOf(values).map((s): [string, string] => [s.code, refusalOf(s, language)]),
    ),
    ...everything().map((s): [string, string] => [s.code, answerOf({ ...s, approximate: n > 1 }, language)]),
  ]);
}

describe("words of readings, refusals and checks", () => {
  it("every code there is has been tried", () => {
    expect(new Set(everything().map((s) => s.code))).toEqual(new Set(Object.keys(english.checks)));
    const [{ n, v, p }] = EXTREMES;
    expect(new Set(Object.keys(statements(n, v, p)))).toEqual(new Set(Object.keys(english.readings)));
    expect(new Set(Object.keys(refusalsAtExtremes(n, v)[0]))).toEqual(new Set(Object.keys(english.errors)));
    const others = { unfits: misfits(n), remarks: remarksAt(n, v), places: placesAt(n, v), typings: typingsAt(n, v) };
    for (const [table, values] of Object.entries({
      ...others,
      rows: rowsAt(n),
      columns: columnsAt(v),
      workbooks: workbooksAt(n),
      spots: spotsAt(n),
      changes: changesAt(n, v),
      doubts: doubtsAt(v),
    }))
      expect(new Set(Object.keys(values)), table).toEqual(new Set(Object.keys(english[table as keyof typeof others])));
  });
  it.each([
    [
      "a plural of one",
      /(?<![\d.,])1 (trials|checks|terms|effects|pairs|factors|responses|results|coefficients|columns|corners|interactions|degrees|levels|blocks|rows|characters)\b/,
    ],
    ["a figure that is none", /undefined|NaN|null|Infinity|\[object/],
    ["a zero below zero", /[-−]0(?![.\d])/],
    ["an exponent", /\de[+-]?\d/],
    ["a space too many", / {2,}| [,.;)]/],
    ["a minus that is a hyphen before a figure", /(^|[ (])-\d/],
  ])("never %s", (_, fault) => {
    const found = new Set(sentences().flatMap(([, text]) => (fault.test(text) ? [text] : [])));
    expect([...found]).toEqual([]);
  });
  it("every sentence ends as one", () => {
    // What is passed on as it came from elsewhere is not ours to end.
    // Nor are the reasons of a step in brackets, which are no sentences, and names.
    const names = new Set(
      EXTREMES.flatMap(({ n, v }) => [
        ...saidOf(waveNamesAt(n)).map((s) => waveNameOf(s)),
        ...saidOf(spotsAt(n)).map((s) => spotText(s)),
        ...saidOf(changesAt(n, v)).map((s) => changeText(s)),
      ]),
    );
    const open = sentences().flatMap(([code, text]) =>
      /[.)?]$/.test(text) || names.has(text) || text === "text" || /^reduce-(p|lower)/.test(code) ? [] : [text],
    );
    expect(open).toEqual([]);
  });
  it("an approximate p is called so", () =>
    expect(answerOf({ code: "bell-fine", values: { n: 9, p: 0.4, adjusted: 1 }, approximate: true })).toMatch(
      /p approximate: the model was chosen on these results\)$/,
    ));
  it("a second language is a second set of words: every sentence comes from it alone", () => {
    const marked = (text: string): string => `⟦${text}⟧`;
    const strings = <K extends string>(of: Record<K, string>): Record<K, string> =>
      Object.fromEntries(Object.keys(of).map((id) => [id, marked(id)])) as Record<K, string>;
    const words = <W extends object>(of: W): W =>
      Object.fromEntries(
        Object.keys(of).map((code) => [code, (v: object) => marked(`${code} ${Object.keys(v).length}`)]),
      ) as unknown as W;
    const pseudo: Language = {
      checks: words(english.checks),
      questions: strings(english.questions),
      statistics: strings(english.statistics),
      approximate: { chosen: marked("≈"), pooled: marked("≈"), "waves-out": marked("≈") },
      readings: words(english.readings),
      actions: strings(english.actions),
      whys: words(english.whys),
      waveNames: words(english.waveNames),
      risks: words(english.risks),
      suspects: words(english.suspects),
      errors: words(english.errors),
      remarks: words(english.remarks),
      unfits: words(english.unfits),
      places: words(english.places),
      typings: words(english.typings),
      rows: words(english.rows),
      columns: words(english.columns),
      workbooks: words(english.workbooks),
      doubts: words(english.doubts),
      spots: words(english.spots),
      changes: words(english.changes),
    };
    for (const [code, text] of sentences(pseudo)) {
      expect(text).toMatch(/^⟦[a-z0-9.-]+ \d+⟧( \(⟦≈⟧\))?$/);
      expect(text).toContain(code);
    }
    for (const id of Object.keys(english.questions) as CheckId[]) {
      expect(questionOf(id, pseudo)).toBe(marked(id));
      expect(statisticOf(id, pseudo)).toBe(marked(id));
      expect(questionOf(id)).toMatch(/\?$/);
    }
    for (const id of Object.keys(english.actions) as ActionId[]) expect(actionOf(id, pseudo)).toBe(marked(id));
  });
  it("a refusal keeps its short code whatever its case, and goes over to another thread as it is", () => {
    const error = new StudyError("bad-count.most", { name: "trials", value: 6000, most: 5000 }, ["trials"]);
    expect([error.code, error.message, error.path]).toEqual([
      "bad-count",
      "trials is 6000; the most is 5000.",
      ["trials"],
    ]);
    const again = StudyError.of(structuredClone(error.said), error.path);
    expect([again.code, again.message, again.path]).toEqual([error.code, error.message, error.path]);
  });
});
