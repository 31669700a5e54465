"use client";
import { alphabetOf, type Study, type Term, termKey, termLetters } from "@/core/study";
import { LinkButton } from "@/ui/parts/link-button";
import css from "../../model.module.css";
import type { Rivals } from "./use-rivals";

/** What a model has more and less than another, in words. */
function difference(study: Study, from: readonly Term[], to: readonly Term[]): string {
  const alphabet = alphabetOf(study);
  const present = new Set(from.map(termKey));
  const has = new Set(to.map(termKey));
  const list = (terms: readonly Term[]): string =>
    terms.length > 4 ? `${terms.length} terms` : terms.map((t) => termLetters(alphabet, t)).join(", ");
  const more = to.filter((t) => !present.has(termKey(t)));
  const less = from.filter((t) => !has.has(termKey(t)));
  if (more.length === 0 && less.length === 0) return "the present model";
  return [more.length > 0 ? `adds ${list(more)}` : "", less.length > 0 ? `leaves out ${list(less)}` : ""]
    .filter(Boolean)
    .join(", ");
}

/** The best model of each size, by what it has more and less than the present one. */
export function BestOfSize({ rivals: { study, fit, ordered, isKept, isHere, use, keep } }: { rivals: Rivals }) {
  const { by, name, value, models, bySize, within } = ordered;
  if (bySize.length === 0) return null;
  return (
    <>
      <h2 style={{ margin: "6px 0 2px" }}>Best of each size</h2>
      <table className={`${css.table} ${css.tight}`} data-testid="rivals">
        <thead>
          <tr>
            <th title="columns of terms">size</th>
            <th style={{ textAlign: "left" }}>against the present model</th>
            <th>{name}</th>
            <th aria-label="act" />
          </tr>
        </thead>
        <tbody>
          {bySize
            .filter((m) => within(m) || isHere(m.terms))
            .map((m) => (
              <tr key={m.k} style={m === models[0] ? { background: "var(--accent-light)" } : undefined}>
                <td>{m.k}</td>
                <td style={{ textAlign: "left", whiteSpace: "normal", fontFamily: "var(--sans)", fontSize: 12.5 }}>
                  {difference(study, fit.terms, m.terms)}
                </td>
                <td>
                  {value(m)
                    .toFixed(by === "aicc" || by === "bic" ? 1 : 3)
                    .replace("-", "−")}
                </td>
                <td>
                  {!isHere(m.terms) && (
                    <LinkButton className="small" onClick={() => use(m.terms)}>
                      use
                    </LinkButton>
                  )}{" "}
                  {!isKept(m.terms) && (
                    <LinkButton className="small" onClick={() => keep(m.terms)}>
                      keep
                    </LinkButton>
                  )}
                </td>
              </tr>
            ))}
        </tbody>
      </table>
    </>
  );
}
