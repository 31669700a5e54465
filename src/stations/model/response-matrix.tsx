"use client";
import { useState } from "react";
import {
  alphabetOf,
  inModelOrder,
  type Study,
  significance,
  type Term,
  termKey,
  termLetters,
  termName,
  valueUnit,
} from "@/core/study";
import { Bar } from "@/ui/charts/marks/bars";
import { Rule } from "@/ui/charts/marks/rule";
import { useStudyView } from "@/ui/desk/view";
import { CopyRows } from "@/ui/parts/copy-rows";
import { figure, pShown, shareText } from "@/ui/parts/format";
import { LinkButton } from "@/ui/parts/link-button";
import { Influence } from "./influence";
import css from "./model.module.css";

/** Every response against every term that any model holds: which factor drives what, at a glance. */
export function AllResponses({
  study,
  choose,
  copy,
}: {
  study: Study;
  choose(id: string): void;
  /** Gives one response the terms of another. */
  copy(from: string, to: string): void;
}) {
  const [from, setFrom] = useState<string | undefined>(undefined);
  const alphabet = alphabetOf(study);
  const view = useStudyView();
  const fits = study.responses.map((r) => ({ r, f: view.fitted(r.id) }));
  const terms = inModelOrder(
    alphabet,
    fits.flatMap(({ f }): Term[] => (f.ok ? f.fitted.fit.terms : [])),
  );
  const alpha = significance(study);
  return (
    <div style={{ overflow: "auto", maxHeight: "calc(100vh - 190px)" }}>
      <table className={`${css.table} ${css.matrix}`}>
        <thead>
          <tr>
            <th>
              <CopyRows
                what="Effects"
                rows={[
                  ["term", ...fits.map(({ r }) => r.name)],
                  ...terms.map((t) => [
                    termName(alphabet, t),
                    ...fits.map(({ f }) =>
                      f.ok
                        ? (f.fitted.ladder.rungs.find((x) => x.key === termKey(t) && x.inModel)?.size ?? null)
                        : null,
                    ),
                  ]),
                ]}
              />
            </th>
            {fits.map(({ r, f }) => (
              <th key={r.id}>
                <LinkButton onClick={() => choose(r.id)}>{r.name}</LinkButton>
                <div style={{ fontWeight: 400 }}>
                  {from === undefined ? (
                    f.ok && (
                      <LinkButton
                        className="small"
                        title={`Give another response the terms of ${r.name}`}
                        onClick={() => setFrom(r.id)}
                      >
                        copy terms
                      </LinkButton>
                    )
                  ) : from === r.id ? (
                    <LinkButton className="small" onClick={() => setFrom(undefined)}>
                      leave
                    </LinkButton>
                  ) : (
                    f.ok && (
                      <LinkButton
                        className="small"
                        onClick={() => {
                          copy(from, r.id);
                          setFrom(undefined);
                        }}
                      >
                        put here
                      </LinkButton>
                    )
                  )}
                </div>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {terms.map((t) => (
            <tr key={termKey(t)}>
              <td>
                <span className="num quiet">{termLetters(alphabet, t)}</span> {termName(alphabet, t)}
              </td>
              {fits.map(({ r, f }) => {
                const rung = f.ok ? f.fitted.ladder.rungs.find((x) => x.key === termKey(t)) : undefined;
                const most = f.ok
                  ? Math.max(
                      ...f.fitted.ladder.rungs.filter((x) => x.inModel).map((x) => Math.abs(x.size ?? 0)),
                      1e-300,
                    )
                  : 1;
                if (!rung?.inModel) return <td key={r.id}>·</td>;
                const share = Math.abs(rung.size ?? 0) / most;
                return (
                  <td key={r.id} title={`${r.name}: ${rung.size} ${valueUnit(r)}, ${pShown(rung.p)}`}>
                    <svg width="56" height="12" aria-hidden="true">
                      <Bar
                        from={28}
                        to={28 + Math.sign(rung.size ?? 0) * 26 * share}
                        y={1}
                        thick={10}
                        opacity={rung.p !== null && rung.p < alpha ? 1 : 0.4}
                      />
                      <Rule from={[28, 0]} to={[28, 12]} />
                    </svg>
                    <span className={css.size}>{figure(rung.size ?? 0)}</span>
                  </td>
                );
              })}
            </tr>
          ))}
          <tr>
            <td>
              <strong>R² predicted</strong>
            </td>
            {fits.map(({ r, f }) => (
              <td key={r.id}>{shareText(f.ok ? f.fitted.fit.summary.r2Predicted : null, 2)}</td>
            ))}
          </tr>
        </tbody>
      </table>
      <p className="small quiet" style={{ marginTop: 6 }}>
        Change from low to high (centre to edge for squares) in each response’s unit; bars are scaled within a response,
        pale where not clear of noise.
      </p>
      <Influence study={study} />
    </div>
  );
}
