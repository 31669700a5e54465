/** How numbers are written for people; the one place where they become text. */

/** A figure rounded to what a person can use, with a true minus sign. */
export function figure(value: number, digits = 2): string {
  const size = Math.abs(value);
  // What is left of sums that should be nothing.
  if (size < 1e-15) return "0";
  const text =
    size >= 1e6 || size < 1e-9
      ? value.toExponential(digits - 1)
      : size >= 10 ** digits
        ? value.toFixed(0)
        : size < 1e-4
          ? value.toFixed(digits - 1 - Math.floor(Math.log10(size)))
          : String(Number(value.toPrecision(digits)));
  return text.replace("-", "−");
}

/** A value to so many decimals, with a true minus sign, and none before what is rounded to nothing. */
export const fixed = (value: number, decimals: number): string =>
  value
    .toFixed(decimals)
    .replace(/^-(?=[0.]+$)/, "")
    .replace("-", "−");

/** A value to the decimals that an error of this size makes meaningful (two figures of the error). */
export function rounded(value: number, error: number | null): string {
  if (error === null || !(error > 0) || Math.abs(value) >= 1e9) return figure(value, 3);
  const decimals = Math.max(0, Math.min(8, 1 - Math.floor(Math.log10(error))));
  return fixed(value, decimals);
}

/** "a, b and c". */
export const listed = (items: readonly string[]): string =>
  items.length < 2 ? items.join("") : `${items.slice(0, -1).join(", ")} and ${items[items.length - 1]}`;

/** "1 trial", "12 trials". */
export const counted = (n: number, one: string, many = `${one}s`): string => `${n} ${n === 1 ? one : many}`;

/** Joins a number and its unit. */
export const withUnit = (text: string, unit: string | undefined): string => (unit ? `${text} ${unit}` : text);

/** A p value, the one way it is written: "0.021", "0.35", "under 0.001". */
export const pFigure = (p: number): string => (p < 0.001 ? "under 0.001" : p.toFixed(p < 0.1 ? 3 : 2));

/** The same with its name: "p 0.021", "p under 0.001". */
export const pText = (p: number): string => `p ${pFigure(p)}`;

/** A whole number with its thousands set apart. */
export const grouped = (n: number): string => n.toLocaleString("en");

/** A number as it was given, with a true minus sign. */
export const written = (n: number): string => (n === 0 ? "0" : String(n).replace("-", "−"));
