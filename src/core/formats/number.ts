/**
 * Reads a number as people write it: decimal point or comma, spaces or thin spaces between thousands, a trailing
 * unit refused.
 * @returns null for an empty cell, undefined for text that is not a number
 */
export function readNumber(text: string, decimal: "." | "," | "either" = "either"): number | null | undefined {
  const t = text
    .trim()
    .replace(/[\u2212\u2013]/g, "-")
    .replace(/(?<=\d)[\s\u00A0\u2009\u202F](?=\d{3}(\D|$))/g, "");
  if (t === "" || /^(na|n\/a|-|·|\.)$/i.test(t)) return null;
  // Among decimal points a comma before three figures may part thousands; before others it is a point typed otherwise.
  const comma = decimal === "." ? /^([-+]?\d*),(\d{1,2}|\d{4,})(e[-+]?\d+)?$/i : /^([-+]?\d*),(\d+)(e[-+]?\d+)?$/i;
  const plain = t.replace(comma, "$1.$2$3");
  if (!/^[-+]?(\d+\.?\d*|\.\d+)(e[-+]?\d+)?$/i.test(plain)) return undefined;
  const v = Number(plain);
  return Number.isFinite(v) ? v : undefined;
}
