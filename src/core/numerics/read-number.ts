/**
 * How decimals are marked: in a sheet mostly by a point or by a comma, in what a person types either way, in what a
 * program says by a point and nothing else.
 */
export type DecimalMark = "." | "," | "either" | "point";

const COMMA = /^([-+]?\d*),(\d+)(e[-+]?\d+)?$/i;
/** Among points a comma before three figures may part thousands; before others it is a point typed otherwise. */
const AMONG_POINTS = /^([-+]?\d*),(\d{1,2}|\d{4,})(e[-+]?\d+)?$/i;

/**
 * Reads a number as people write it: decimal point or comma, spaces or thin spaces between thousands, a trailing
 * unit refused.
 * @returns null for an empty cell, undefined for text that is not a number
 */
export function readNumber(text: string, decimal: DecimalMark = "either"): number | null | undefined {
  const t = text
    .trim()
    .replace(/[\u2212\u2013]/g, "-")
    .replace(/(?<=\d)[\s\u00A0\u2009\u202F](?=\d{3}(\D|$))/g, "");
  if (t === "" || /^(na|n\/a|-|·|\.)$/i.test(t)) return null;
  const plain = decimal === "point" ? t : t.replace(decimal === "." ? AMONG_POINTS : COMMA, "$1.$2$3");
  if (!/^[-+]?(\d+\.?\d*|\.\d+)(e[-+]?\d+)?$/i.test(plain)) return undefined;
  const v = Number(plain);
  return Number.isFinite(v) ? v : undefined;
}
