import type { CountedFault } from "../messages/counted";
import type { DecimalMark } from "../numerics/read-number";

/** Events, and the pieces or the exposure that they were counted on. */
export interface CountedResult {
  events: number;
  of: number;
}

/** Pieces of one trial by the ordered words that they were graded with. */
export type GradedResult = Readonly<Record<string, number>>;

/** A value of which only a side is known: the gauge ended, or the time did. */
export type CensoredValue = { below: number } | { above: number } | { between: readonly [number, number] };

/** What is kept of one response in one trial: a value, several (null for a missing one), events counted, nothing. */
export type KeptResult = number | (number | null)[] | CountedResult | null;

/** What a response says of how it is measured. */
export interface HowMeasured {
  measured?: string | undefined;
  unit?: string | undefined;
  noise?: number | undefined;
  of?: number | undefined;
  lot?: number | undefined;
  base?: number | undefined;
  excess?: number | undefined;
  scatter?: "free" | "counting" | undefined;
  pieceCost?: number | undefined;
}

/** What a response may say beside its kind, of which each kind knows its own. */
export const KIND_FIELDS = ["of", "lot", "scatter", "base", "excess", "pieceCost"] as const;
export type KindField = (typeof KIND_FIELDS)[number];

/** What a text says of a result, or what is wrong with it. */
export type ReadResult<R = KeptResult> = { ok: true; value: R | null } | { ok: false; fault: CountedFault };

/** One of the columns that results stand in, in a sheet. */
export interface ResultColumn {
  /** Behind the response's id and name; empty for the only one, and the first. */
  suffix: string;
  unit: string;
  cell(result: KeptResult | undefined): number | string | null;
}

/** What goes on from what stands in a trial, at the press of a button: one piece more. */
export interface Step {
  /** What stands on the button, and what it is called aloud. */
  text: string;
  label: string;
  /** What comes of what stands; nothing where that cannot be told yet, for which `refusal` says why. */
  next(stands: KeptResult | undefined): KeptResult | undefined;
}

/** What asks a person for a result, for bench and ledger to draw. */
export interface Control {
  /** A field for each of its figures, each kept by itself, or one field for the whole. */
  fields: "each" | "whole";
  /** What may be typed in it. */
  example: string;
  steps: readonly Step[];
  /** Why a step cannot go on from nothing. */
  refusal: string;
  /** What is said of what stands. */
  said(result: KeptResult | undefined): string;
}

/** A field on Question that a kind asks for. */
export interface AskedField {
  key: KindField;
  label: string;
  placeholder: string;
  /** Read and written in per cent. */
  percent?: true;
  /** Why a text is refused, behind it. */
  wrong: string;
  /** Where one of a few is chosen: each with its words, the usual one first; it says by saying nothing. */
  choices?: readonly (readonly [string, string])[];
}

/**
 * A kind of response: how a result is kept, read, written, shown and asked for. The law that fits it, its noise in
 * planning and what a lot means stand beside it, each on its own floor.
 */
export interface ResultKind<R = KeptResult> {
  readonly id: string;
  /** As which it is measured, where one chooses. */
  readonly name: string;
  /** What a response of it may say beside. */
  readonly fields: readonly KindField[];
  /** Several values of one trial are repeats or units, each typed, doubted and compared by itself. */
  readonly several: boolean;
  /** Another scale may be chosen, and how far it scatters modelled; else the law says both. */
  readonly rescaled: boolean;
  /** Values are read and written in per cent. */
  readonly percent: boolean;
  /** Ends of what a value can be at all. */
  readonly ends: readonly [number, number];
  /** What the numbers of a lot are called. */
  readonly lot: { size(about: HowMeasured): string; value: string; exposure: string };

  /** What models and goals go by; null where nothing was measured. */
  value(result: R | null | undefined, about: HowMeasured): number | null;
  /** The values that were measured one by one; none where they are not. */
  figures(result: R | null | undefined): number[];
  /** Events with what they were counted on; null of what is not counted. */
  events(result: R | null | undefined, about: HowMeasured): CountedResult | null;
  /** What is wrong with a result as it is kept; nothing where it may stand. */
  fault(result: R | null | undefined, about: HowMeasured): CountedFault | undefined;
  /** What is wrong with something that is no result of it at all. */
  unreadable(text: string): CountedFault;
  /** What is wrong with how a response of it is said to be measured. */
  misfit?(about: HowMeasured): { key: KindField; fault: CountedFault } | undefined;
  /** As it is kept, whatever is said of later trials. */
  normalised(result: R, about: HowMeasured): R;
  /** What a cell says; `on` is what the cell beside it says that belongs to it. */
  read(text: string, about: HowMeasured, decimal?: DecimalMark, on?: string): ReadResult<R>;
  /** Results of further rows of one trial, together. */
  together(before: R | null, more: R): R;
  /** As it is typed. */
  text(result: R | null | undefined, about: HowMeasured, one: (value: number) => string): string;
  /** As a report says it, where it is not said by its value alone. */
  said(result: R | null | undefined, about: HowMeasured): string | undefined;
  /** Columns of a sheet; none where each of its figures has one. */
  columns(about: HowMeasured, results: readonly (R | undefined)[]): ResultColumn[] | undefined;
  /** Unit of its values, for people; and beside a value as it is written. */
  unit(about: HowMeasured): string;
  shownUnit(about: HowMeasured): string;
  /** What stands beside its name above results, and on what each is measured. */
  heading(about: HowMeasured): string;
  on(about: HowMeasured): string;
  /** Standard deviation of one trial that plans go by; undefined where nothing is stated. */
  noise(about: HowMeasured): number | undefined;
  control(about: HowMeasured & { name: string }): Control;
  asks(about: HowMeasured): AskedField[];
  /** Limits as they may be typed, to raise, to lower, to stay between. */
  readonly examples: { raise: string; lower: string; between: string };
}
