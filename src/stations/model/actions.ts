import {
  alphabetOf,
  dependants,
  type Edit,
  edit,
  inModelOrder,
  type Model,
  type Study,
  storedModel,
  type Term,
  termKey,
  termName,
  withParents,
} from "@/core";

/** Edits behind the Model station. */

/** Stores a response's terms, keeping its scale and block. */
export function setTerms(study: Study, response: string, terms: readonly Term[]): Edit[] {
  const had = storedModel(study, response);
  const model: Model = {
    response,
    transform: had?.transform ?? "none",
    block: had?.block ?? true,
    ...(had?.hierarchy ? { hierarchy: had.hierarchy } : {}),
    terms: inModelOrder(alphabetOf(study), terms),
  };
  return [edit(study, ["models", response], model)];
}

export type Toggle = { ok: true; terms: Term[]; note?: string } | { ok: false; sentence: string };

/**
 * Takes a term in with the parents it needs, or out. A parent that a kept term needs stays unless `force` is set, in
 * which case the terms that need it go with it.
 */
export function toggleTerm(study: Study, terms: readonly Term[], term: Term, force: boolean): Toggle {
  const alphabet = alphabetOf(study);
  const key = termKey(term);
  if (!terms.some((t) => termKey(t) === key)) {
    const next = withParents(alphabet, [...terms, term]);
    const parents = next.filter((t) => termKey(t) !== key && !terms.some((u) => termKey(u) === termKey(t)));
    return {
      ok: true,
      terms: next,
      ...(parents.length > 0
        ? {
            note: `${parents.map((p) => termName(alphabet, p)).join(", ")} came in too: ${termName(alphabet, term)} needs ${parents.length === 1 ? "it" : "them"}.`,
          }
        : {}),
    };
  }
  const needing = dependants(terms, term, "strong");
  if (needing.length > 0 && !force)
    return {
      ok: false,
      sentence: `${termName(alphabet, term)} stays: ${needing.map((t) => termName(alphabet, t)).join(", ")} ${needing.length === 1 ? "needs" : "need"} it. Shift+space takes them all out.`,
    };
  const gone = new Set([key, ...needing.map(termKey)]);
  return {
    ok: true,
    terms: terms.filter((t) => !gone.has(termKey(t))),
    ...(needing.length > 0 ? { note: `${needing.map((t) => termName(alphabet, t)).join(", ")} went with it.` } : {}),
  };
}
