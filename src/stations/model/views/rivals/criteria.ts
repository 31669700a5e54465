import type { SubsetModel } from "@/core/model";
import { type Term, termKey } from "@/core/study";

/** What models are ordered by. */
export const CRITERIA = {
  aicc: { name: "AICc", low: true },
  bic: { name: "BIC", low: true },
  r2Adjusted: { name: "adjusted R²", low: false },
  r2Predicted: { name: "predicted R²", low: false },
} as const;
export type CriterionName = keyof typeof CRITERIA;

/** A set of terms as one word. */
export const setKey = (terms: readonly Term[]): string => terms.map(termKey).sort().join("|");

/** What a search found, by one criterion. */
export interface Ordered {
  by: CriterionName;
  name: string;
  /** Smaller is better. */
  low: boolean;
  value(m: SubsetModel): number;
  /** The best first. */
  models: SubsetModel[];
  /** The best of each number of columns, by that number. */
  bySize: SubsetModel[];
  /** Whether a model is drawn: those far worse than the best of their size would press the rest together. */
  within(m: SubsetModel): boolean;
}

export function orderedBy(by: CriterionName, found: readonly SubsetModel[]): Ordered {
  const { name, low } = CRITERIA[by];
  const value = (m: SubsetModel): number => m[by] as number;
  const better = (a: SubsetModel, b: SubsetModel): number => (low ? value(a) - value(b) : value(b) - value(a));
  const models = found.filter((m) => m[by] !== null).sort(better);
  const bySize = [...new Map([...models].reverse().map((m) => [m.k, m])).values()].sort((a, b) => a.k - b.k);
  const span = bySize.map(value);
  const best = models[0];
  const edge = !best
    ? 0
    : low
      ? Math.min(Math.max(...span), value(best) + 40)
      : Math.max(Math.min(...span), value(best) - 0.6);
  return { by, name, low, value, models, bySize, within: (m) => (low ? value(m) <= edge : value(m) >= edge) };
}
