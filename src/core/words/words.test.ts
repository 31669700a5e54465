import { describe, expect, it } from "vitest";
import type { CheckId, CheckValues } from "../messages/checks";
import type { Message } from "../messages/message";
import type { ActionId } from "../messages/readings";
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
import { actionOf, answerOf, messageText, questionOf, statisticOf } from "./answers";
import { english } from "./english";
import type { Language, MessageValues } from "./language";

const judged = (p: number) => ({ p, adjusted: Math.min(1, 9 * p) });

/** Every code with every extreme. */
function everything(): Message<CheckValues>[] {
  return EXTREMES.flatMap(({ n, v, p }): Message<CheckValues>[] => {
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
const saidOf = <V extends object>(values: V): Message<V>[] =>
  Object.entries(values).map(([code, v]) => ({ code, values: v }) as Message<V>);

/** What is said at an extreme, by the table of words it belongs to. */
const AT: { [K in keyof MessageValues]: (n: number, v: number, p: number) => MessageValues[K][] } = {
  readings: (n, v, p) => [statements(n, v, p)],
  whys: (n, _, p) => [reasons(n, p)],
  doubts: (_, v) => [doubtsAt(v)],
  locations: (n) => [spotsAt(n)],
  changes: (n, v) => [changesAt(n, v)],
  waveNames: (n) => [waveNamesAt(n)],
  risks: (n, v) => [hazards(n, v)],
  suspects: (n, v, p) => [doubts(n, v, p)],
  unfits: (n) => [misfits(n)],
  remarks: (n, v) => [remarksAt(n, v)],
  places: (n, v) => [placesAt(n, v)],
  typings: (n, v) => [typingsAt(n, v)],
  workbooks: (n) => [workbooksAt(n)],
  columns: (_, v) => [columnsAt(v)],
  rows: (n) => [rowsAt(n)],
  errors: refusalsAtExtremes,
};
const KINDS = Object.keys(AT) as (keyof MessageValues)[];

/** Sentences of one table at an extreme, by the code behind each. */
const said = <K extends keyof MessageValues>(
  kind: K,
  { n, v, p }: (typeof EXTREMES)[number],
  language: Language = english,
): [string, string][] =>
  AT[kind](n, v, p).flatMap((values) =>
    saidOf<MessageValues[K]>(values).map((m): [string, string] => [String(m.code), messageText(kind, m, language)]),
  );

/** All that the core can say in a language, by the code behind it. */
const sentences = (language: Language = english): [string, string][] =>
  EXTREMES.flatMap((extreme) => [
    ...KINDS.flatMap((kind) => said(kind, extreme, language)),
    ...everything().map((s): [string, string] => [s.code, answerOf({ ...s, approximate: extreme.n > 1 }, language)]),
  ]);

describe("words of readings, refusals and checks", () => {
  it("every code there is has been tried", () => {
    expect(new Set(everything().map((s) => s.code))).toEqual(new Set(Object.keys(english.checks)));
    const [{ n, v, p }] = EXTREMES;
    for (const kind of KINDS)
      expect(new Set(Object.keys(AT[kind](n, v, p)[0])), kind).toEqual(new Set(Object.keys(english[kind])));
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
      EXTREMES.flatMap((extreme) =>
        (["waveNames", "locations", "changes"] as const).flatMap((kind) => said(kind, extreme).map(([, text]) => text)),
      ),
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
      ...(Object.fromEntries(KINDS.map((kind) => [kind, words(english[kind])])) as unknown as Language),
      checks: words(english.checks),
      questions: strings(english.questions),
      statistics: strings(english.statistics),
      approximate: { chosen: marked("≈"), pooled: marked("≈"), "waves-out": marked("≈") },
      actions: strings(english.actions),
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
