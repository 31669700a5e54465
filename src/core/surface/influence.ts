import type { Importance } from "../model/surface";
import { activeFactors } from "../study/roles";
import type { Response, Study } from "../study/schema";
import { importanceShares } from "./importance-shares";

/** What one factor moves, over all responses as they count. */
export interface Influence {
  factor: string;
  /** Of all that the factors move; the shares add up to 1. */
  share: number;
  /** Of each response's variation, with all interactions that the factor takes part in (Sobol' total). */
  responses: Record<string, number>;
}

/**
 * Factors by what they move over several responses: Sobol' totals (Homma & Saltelli 1996) of each, weighted by how
 * much the response counts, as shares of their sum; the largest first. Interactions count with each of their factors.
 */
export function weightedInfluence(
  study: Study,
  tables: readonly { response: Response; rows: readonly Importance[] }[],
): Influence[] {
  const weights = importanceShares(tables.map((t) => t.response));
  const found = activeFactors(study).map((f) => {
    const totals = tables.map((t) => t.rows.find((r) => r.factor === f.id)?.total ?? 0);
    return {
      factor: f.id,
      weighted: totals.reduce((sum, v, i) => sum + weights[i] * v, 0),
      responses: Object.fromEntries(tables.map((t, i) => [t.response.id, totals[i]])),
    };
  });
  const all = found.reduce((t, f) => t + f.weighted, 0);
  return found
    .map(({ factor, weighted, responses }) => ({ factor, share: all > 0 ? weighted / all : 0, responses }))
    .sort((a, b) => b.share - a.share);
}
