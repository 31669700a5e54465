import type { Fitted } from "@/core/questions";
import { activeFactors, isNumeric, type Study, type Term, termKey } from "@/core/study";

/** Terms that no rung stands for: interactions of three factors, bends of bends and slopes that bend. */
export function furtherTerms(study: Study, fitted: Fitted): Term[] {
  const standing = new Set(fitted.ladder.rungs.map((r) => r.key));
  const factors = activeFactors(study);
  const numeric = factors.filter(isNumeric).filter((f) => f.kind === "continuous" || f.values.length > 2);
  const ids = factors.map((f) => f.id);
  const terms: Term[] = [
    ...numeric.map((f): Term => [f.id, f.id]),
    ...ids.flatMap((a, i) => ids.slice(i + 1).map((b): Term => [a, b])),
    ...ids.flatMap((a, i) => ids.slice(i + 1).flatMap((b, j) => ids.slice(i + j + 2).map((c): Term => [a, b, c]))),
    ...numeric.flatMap((f) => ids.filter((g) => g !== f.id).map((g): Term => [f.id, f.id, g])),
    ...numeric.map((f): Term => [f.id, f.id, f.id]),
  ];
  return terms.filter((t) => !standing.has(termKey(t)));
}
