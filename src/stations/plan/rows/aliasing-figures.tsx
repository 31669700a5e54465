"use client";
import { Segmented } from "antd";
import { useState } from "react";
import type { PlanDetail } from "@/core/plans";
import { alphabetOf, type Study, type Term, termKey, termLetters } from "@/core/study";
import { CopyRows } from "@/ui/parts/copy-rows";
import { figure } from "@/ui/parts/format";
import { ScrollBox } from "@/ui/parts/scroll-box";
import css from "../plan.module.css";
import { letterOf, type Planning } from "../use-planning";

type Figures = "alias" | "correlation" | "terms";
const FIGURES: { value: Figures; label: string }[] = [
  { value: "alias", label: "alias coefficients" },
  { value: "correlation", label: "correlations" },
  { value: "terms", label: "inflation and error" },
];

/** Figures of asked terms against terms that may be there. */
interface Matrix {
  rows: readonly Term[];
  columns: readonly Term[];
  values: readonly (readonly number[])[];
}

const matrixOf = (d: PlanDetail | undefined, of: Figures): Matrix | undefined => {
  if (!d) return undefined;
  if (of === "alias") return d.alias;
  return d.correlation
    ? { rows: d.terms.map((t) => t.term), columns: d.alias.columns, values: d.correlation }
    : undefined;
};

/** The figure of a pair of terms in a matrix; undefined where it holds no such pair. */
const at = (m: Matrix | undefined, row: Term, column: Term): number | undefined => {
  const i = m?.rows.findIndex((t) => termKey(t) === termKey(row)) ?? -1;
  const j = m?.columns.findIndex((t) => termKey(t) === termKey(column)) ?? -1;
  return i < 0 || j < 0 ? undefined : m?.values[i][j];
};

const numeral = (v: number): string => (Math.abs(v) < 5e-4 ? "0" : v.toFixed(2).replace("-", "−"));

/** One plan's matrix; what the next plan has otherwise is marked. */
function MatrixTable({
  study,
  own,
  other,
  name,
}: {
  study: Study;
  own: Matrix;
  other: Matrix | undefined;
  name: string;
}) {
  const alphabet = alphabetOf(study);
  return (
    <ScrollBox className={css.scroll} name={name}>
      <table className={css.figures}>
        <thead>
          <tr>
            <th />
            {own.columns.map((c) => (
              <th key={termKey(c)}>{termLetters(alphabet, c)}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {own.rows.map((r, i) => (
            <tr key={termKey(r)}>
              <th>{termLetters(alphabet, r)}</th>
              {own.columns.map((c, j) => {
                const v = own.values[i][j];
                const beside = at(other, r, c);
                const differs = beside !== undefined && Math.abs(Math.abs(beside) - Math.abs(v)) > 5e-3;
                return (
                  <td
                    key={termKey(c)}
                    className="num"
                    data-zero={numeral(v) === "0" ? "yes" : "no"}
                    data-differs={differs ? "yes" : "no"}
                    title={differs ? `${numeral(beside)} in the other plan` : undefined}
                  >
                    {numeral(v)}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </ScrollBox>
  );
}

/** Inflation of variance and standard error of every asked term, the plans side by side. */
function TermsTable({ planning: { study, picked, details } }: { planning: Planning }) {
  const alphabet = alphabetOf(study);
  const terms = [...new Map(details.flatMap((d) => d?.terms ?? []).map((t) => [termKey(t.term), t.term])).values()];
  const of = (i: number, term: Term) => details[i]?.terms.find((t) => termKey(t.term) === termKey(term));
  return (
    <ScrollBox className={css.scroll} name="Inflation and standard error by term">
      <table className={css.figures}>
        <thead>
          <tr>
            <th>term</th>
            {picked.map((s, i) => [
              <th key={`${s.id}v`}>{letterOf(i)}: VIF</th>,
              <th key={`${s.id}e`}>{letterOf(i)}: error, σ</th>,
            ])}
          </tr>
        </thead>
        <tbody>
          {terms.map((term) => (
            <tr key={termKey(term)}>
              <th>{termLetters(alphabet, term)}</th>
              {picked.map((s, i) => {
                const t = of(i, term);
                const text = (v: number | null | undefined): string =>
                  v === null || v === undefined ? "–" : figure(v, 3);
                return [
                  <td key={`${s.id}v`} className="num">
                    {text(t?.vif)}
                  </td>,
                  <td key={`${s.id}e`} className="num">
                    {text(t?.error)}
                  </td>,
                ];
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </ScrollBox>
  );
}

/** Everything of a figure as rows of a sheet, full precision. */
function sheetOf({ study, picked, details }: Planning, of: Figures): (string | number)[][] {
  const alphabet = alphabetOf(study);
  if (of === "terms")
    return [
      ["plan", "term", "VIF", "standard error, σ"],
      ...picked.flatMap((s, i) =>
        (details[i]?.terms ?? []).map((t) => [s.label, termLetters(alphabet, t.term), t.vif ?? "", t.error]),
      ),
    ];
  return [
    ["plan", "asked", "may be there", of === "alias" ? "alias coefficient" : "correlation"],
    ...picked.flatMap((s, i) => {
      const m = matrixOf(details[i], of);
      return (m?.rows ?? []).flatMap((r, a) =>
        (m?.columns ?? []).map((c, b) => [
          s.label,
          termLetters(alphabet, r),
          termLetters(alphabet, c),
          m?.values[a][b] ?? "",
        ]),
      );
    }),
  ];
}

/** Asked terms against those that may be there: alias coefficients, correlations, inflation and error. */
export function AliasingFigures({ planning }: { planning: Planning }) {
  const { study, picked, details } = planning;
  const [of, setOf] = useState<Figures>("alias");
  const any = details.find((d) => d !== undefined);
  if (!any) return <span className="small quiet">Working the figures out…</span>;
  return (
    <div>
      <div className="row small" style={{ marginBottom: 6 }}>
        <Segmented<Figures>
          size="small"
          aria-label="Figures of aliasing"
          value={of}
          options={FIGURES}
          onChange={setOf}
        />
        <span className="grow" />
        <CopyRows what="Aliasing" rows={sheetOf(planning, of)} />
      </div>
      {of === "terms" ? (
        <TermsTable planning={planning} />
      ) : any.alias.columns.length === 0 ? (
        <p className="small quiet">Everything that may be there is asked already: nothing is left to stand in it.</p>
      ) : (
        picked.map((s, i) => {
          const own = matrixOf(details[i], of);
          return (
            <div key={s.id}>
              <p className="small quiet">
                <b>{letterOf(i)}</b> {of === "alias" ? "what of each column stands in the estimate of each row" : ""}
                {picked.length > 1 ? "; underlined: other than in the plan beside it" : ""}
              </p>
              {own ? (
                <MatrixTable
                  study={study}
                  own={own}
                  other={matrixOf(details[i === 0 ? 1 : 0], of)}
                  name={`${of === "alias" ? "Alias coefficients" : "Correlations"} of plan ${letterOf(i)}`}
                />
              ) : (
                <p className="small quiet">Too many terms to correlate every one with every other.</p>
              )}
            </div>
          );
        })
      )}
    </div>
  );
}
