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

/** How many factors there are of each kind. */
export function kindsOf(factors: readonly Factor[]): { numeric: number; categories: number } {
  const numeric = numericOf(factors).length;
  return { numeric, categories: factors.length - numeric };
}
