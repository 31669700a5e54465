import { isNumeric } from "../study/coding";
import type { Factor, NumericFactor, Settings } from "../study/schema";

/** Category combinations, first category fastest; one empty one when there are none. */
export function categoryCombinations(factors: readonly Factor[]): Settings[] {
  let all: Settings[] = [{}];
  for (const f of factors)
    if (!isNumeric(f)) all = f.levels.flatMap((level) => all.map((s) => ({ ...s, [f.id]: level })));
  return all;
}

export const numericOf = (factors: readonly Factor[]): NumericFactor[] => factors.filter(isNumeric);
/** A discrete factor of two values is as good as a category: it has no middle. */
export const hasMiddle = (f: NumericFactor): boolean => f.kind === "continuous" || f.values.length > 2;

const NUMBERS = ["no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten"];
export const inWords = (n: number): string => NUMBERS[n] ?? String(n);

/** "two numeric factors and a category", for sentences that refuse. */
export function countText(factors: readonly Factor[]): string {
  const n = numericOf(factors).length;
  const c = factors.length - n;
  const numeric = `${inWords(n)} numeric ${n === 1 ? "factor" : "factors"}`;
  return c === 0 ? numeric : `${numeric} and ${c === 1 ? "a category" : `${inWords(c)} categories`}`;
}
