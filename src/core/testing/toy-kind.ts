import type { ResultKind } from "../kinds/result";
import { value } from "../kinds/value/result";

// A kind of response that a study knows by its registries alone: two ends read off a scale, as 3.1..3.4, whose middle
// is what models go by.

const PAIR = /^(-?[\d.]+)\.\.(-?[\d.]+)$/;

const isPair = (result: unknown): result is [number, number] =>
  Array.isArray(result) && result.length === 2 && result.every((v) => typeof v === "number") && result[0] <= result[1];

const unread = (text: string) => ({ ...value.unreadable(text), why: "unreadable" as const });

export const gap: ResultKind = {
  ...value,
  id: "gap",
  name: "two ends",
  several: false,
  value: (result) => (isPair(result) ? (result[0] + result[1]) / 2 : null),
  figures: () => [],
  fault: (result) => (result === null || result === undefined || isPair(result) ? undefined : unread("")),
  read(text) {
    if (text.trim() === "") return { ok: true, value: null };
    const pair = PAIR.exec(text.trim())?.slice(1).map(Number);
    return isPair(pair) ? { ok: true, value: pair } : { ok: false, fault: unread(text) };
  },
  text: (result) => (isPair(result) ? `${result[0]}..${result[1]}` : ""),
  said: (result) => (isPair(result) ? `${result[0]} to ${result[1]}` : undefined),
  columns: () => [{ suffix: "", unit: "", cell: (result) => gap.text(result, {}, String) || null }],
  heading: ({ unit }) => `ends, ${unit}`,
  control: ({ name }) => ({
    fields: "whole",
    example: "3.1..3.4",
    steps: [
      {
        text: "wider",
        label: `${name} wider`,
        next: (result) => (isPair(result) ? [result[0] - 1, result[1] + 1] : undefined),
      },
    ],
    refusal: "type both ends first",
    said: (result) => (isPair(result) ? `${result[1] - result[0]} wide` : ""),
  }),
};
