"use client";
import { type ReactNode, useMemo } from "react";
import { messageText, pFigure } from "@/core/findings";
import { type AnovaRow, cellSummary, type Fit, type SetupModel } from "@/core/model";
import { activeFactors, alphabetOf, type Study, termKey, termName } from "@/core/study";
import { Assumed } from "@/ui/parts/assumed";
import { CopyRows } from "@/ui/parts/copy-rows";
import { Fold } from "@/ui/parts/fold";
import { figure, settingText, valueText } from "@/ui/parts/format";
import css from "../model.module.css";
import type { ViewProps } from "./view";

const SOURCES: Record<string, string> = {
  wave: "waves",
  model: "model",
  curvature: "curvature",
  residual: "residual",
  "lack-of-fit": "lack of fit",
  "pure-error": "pure error",
  total: "total",
};
const pCell = (p: number | null): string => (p === null ? "" : pFigure(p));

/** Mean, spread and count at every combination that was run. */
function Cells({ study, fitted }: ViewProps) {
  const cells = useMemo(() => cellSummary(study, fitted.fit), [study, fitted]);
  const factors = activeFactors(study);
  const response = study.responses.find((r) => r.id === fitted.fit.response);
  const shown = cells.slice(0, 60);
  return (
    <Fold
      title={
        <>
          {cells.length} combinations that were run
          {cells.length < fitted.fit.n ? `, ${cells.filter((c) => c.n > 1).length} of them more than once` : ""}
        </>
      }
    >
      <div className="row" style={{ margin: "4px 0" }}>
        <span className="grow" />
        <CopyRows
          what="Combinations"
          rows={[
            [...factors.map((f) => f.name), "n", "mean", "s"],
            ...cells.map((c) => [...factors.map((f) => c.settings[f.id]), c.n, c.mean, c.s]),
          ]}
        />
      </div>
      <div style={{ overflowX: "auto" }}>
        <table className={`${css.table} ${css.tight}`}>
          <thead>
            <tr>
              {factors.map((f) => (
                <th key={f.id} title={f.name}>
                  {f.letter}
                </th>
              ))}
              <th>n</th>
              <th>mean</th>
              <th>s</th>
            </tr>
          </thead>
          <tbody>
            {shown.map((c) => (
              <tr key={c.trials[0]}>
                {factors.map((f) => (
                  <td key={f.id}>{settingText(c.settings[f.id])}</td>
                ))}
                <td>{c.n}</td>
                <td>{valueText(response, c.mean, null)}</td>
                <td>{c.s === null ? "" : figure(c.s, 2)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {cells.length > shown.length && <p className="small quiet">“copy” takes all {cells.length}.</p>}
    </Fold>
  );
}

/** By what the rows of an analysis of variance are judged. */
type Judging = "counted" | "setups" | "parts" | "squares";

/** What copied rows hold between degrees of freedom and F. */
const COPIED: Record<Judging, { heads: string[]; of(row: AnovaRow): (string | number | null | undefined)[] }> = {
  setups: { heads: ["stratum", "error df"], of: (r) => [r.stratum ?? "", r.dfDenominator] },
  parts: { heads: ["error df"], of: (r) => [r.dfDenominator] },
  counted: {
    heads: ["rise of deviance, last", "in order", "per df"],
    of: (r) => [r.ss, r.sequentialSs, r.ms],
  },
  squares: { heads: ["partial SS", "sequential SS", "per df"], of: (r) => [r.ss, r.sequentialSs, r.ms] },
};

/** What stands above squares, or above the deviances that take their place. */
const SquaresHeads = ({ law }: { law: Judging }) =>
  law === "setups" || law === "parts" ? (
    <>
      {law === "setups" && <th title="judged between set-ups, or within them">stratum</th>}
      <th title="degrees of freedom of the error it is judged by (Kenward and Roger)">error df</th>
    </>
  ) : law === "counted" ? (
    <>
      <th title="what the deviance rises by when the term leaves; of pure error Pearson's X²">deviance</th>
      <th title="deviance per degree of freedom">per df</th>
    </>
  ) : (
    <>
      <th title="partial sum of squares">SS</th>
      <th title="mean square">MS</th>
    </>
  );

/** Squares of a row, or what it is judged by where set-ups take their place. */
const SquaresCells = ({ row: r, law }: { row: AnovaRow; law: Judging }) =>
  law === "setups" || law === "parts" ? (
    <>
      {law === "setups" && <td>{r.stratum ?? ""}</td>}
      <td title={String(r.dfDenominator ?? "")}>{r.dfDenominator ? figure(r.dfDenominator, 3) : ""}</td>
    </>
  ) : (
    <>
      <td title={String(r.ss ?? "")}>{r.ss === null ? "" : figure(r.ss, 4)}</td>
      <td title={String(r.ms ?? "")}>{r.ms === null ? "" : figure(r.ms, 4)}</td>
    </>
  );

/** What set-ups and their trials vary by. */
const Components = ({ study, fit, of }: { study: Study; fit: Fit; of: SetupModel }) => (
  <>
    <p className="small quiet" style={{ marginTop: 6 }}>
      Variance between {of.setups} set-ups {figure(of.bounded ? 0 : of.between, 3)}, within them {figure(of.within, 3)}
      {of.bounded && `; the estimate between is ${figure(of.between, 3)}, which counts as 0 for new trials`}.
    </p>
    <Supposed study={study} setups={of} fit={fit} />
  </>
);

/** Where set-ups are too few to tell how they vary: what hard factors would do if they varied by so much. */
function Supposed({ study, setups, fit }: { study: Study; setups: SetupModel; fit: Fit }) {
  const intervals = setups.supposed(study.confidence).filter((i) => fit.parameters[i.column].term[0] !== "@wave");
  if (intervals.length === 0) return null;
  const alphabet = alphabetOf(study);
  const ratios = [...new Set(intervals.map((i) => i.ratio))];
  const columns = [...new Set(intervals.map((i) => i.column))];
  return (
    <>
      <h2 style={{ marginTop: 8 }}>If the variance of set-ups were so many times that of trials</h2>
      <table className={`${css.table} ${css.tight}`} aria-label="Intervals at assumed ratios">
        <thead>
          <tr>
            <th style={{ width: "22%" }}>Term</th>
            {ratios.map((r) => (
              <th key={r}>{figure(r, 2)} ×</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {columns.map((c) => (
            <tr key={c}>
              <td>
                {termName(alphabet, fit.parameters[c].term)}
                {fit.parameters[c].level ? ` [${fit.parameters[c].level}]` : ""}
              </td>
              {intervals
                .filter((i) => i.column === c)
                .map((i) => (
                  <td key={i.ratio} className="num">
                    {i.interval.map((v) => valueText(undefined, v, (i.interval[1] - i.interval[0]) / 4)).join(" … ")}
                  </td>
                ))}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="small quiet">
        Too few set-ups to tell: nothing here is a test. The middle one is what the other figures assume.
      </p>
    </>
  );
}

/** Analysis of variance and coefficients. */
export function TableView({ study, fitted }: ViewProps) {
  const { fit } = fitted;
  const alphabet = alphabetOf(study);
  const name = (level: string | undefined, term: string[]): string =>
    `${termName(alphabet, term)}${level ? ` [${level}]` : ""}`;
  const { likelihood, setups } = fit.model;
  const law = setups ? "setups" : fit.model.cellsBeyond ? "parts" : likelihood ? "counted" : "squares";
  const what = likelihood ? "Table of deviance" : "Analysis of variance";
  const anova = fit.anova.map((r) => ({ ...r, name: r.term ? termName(alphabet, r.term) : SOURCES[r.source] }));
  const section = (title: string, copy: ReactNode, table: ReactNode): ReactNode => (
    <>
      <div className="row" style={{ margin: "4px 0" }}>
        <h2 className="grow">{title}</h2>
        {copy}
      </div>
      {table}
    </>
  );
  return (
    <div>
      {section(
        "Coefficients, coded",
        <CopyRows
          what="Coefficients"
          rows={[
            ["term", "level", "coefficient", "standard error", "t", "p", "low", "high", "VIF"],
            ...fit.parameters.map((p) => [
              termName(alphabet, p.term),
              p.level,
              p.coefficient,
              p.standardError,
              p.t,
              p.p,
              p.interval?.[0],
              p.interval?.[1],
              p.vif,
            ]),
          ]}
        />,
        <table className={`${css.table} ${css.tight}`}>
          <thead>
            <tr>
              <th>Term</th>
              <th title={`with its ${Math.round(100 * study.confidence)} % interval`}>
                coef, {Math.round(100 * study.confidence)} % <Assumed ratio={setups?.assumed} />
              </th>
              <th>std err</th>
              <th>p</th>
              <th>VIF</th>
            </tr>
          </thead>
          <tbody>
            {fit.parameters.map((p) => (
              <tr key={`${termKey(p.term)}-${p.level}`}>
                <td>{name(p.level, p.term)}</td>
                <td title={String(p.coefficient)}>
                  {valueText(undefined, p.coefficient, p.standardError)}
                  {p.interval && (
                    <small>{p.interval.map((v) => valueText(undefined, v, p.standardError)).join(" … ")}</small>
                  )}
                </td>
                <td title={String(p.standardError ?? "")}>
                  {p.standardError === null ? "–" : figure(p.standardError)}
                </td>
                <td title={String(p.p ?? "")}>{pCell(p.p)}</td>
                <td>{p.vif === null ? "" : p.vif.toFixed(2)}</td>
              </tr>
            ))}
          </tbody>
        </table>,
      )}
      <div style={{ height: 10 }} />
      {section(
        what,
        <CopyRows
          what={what}
          rows={[
            ["source", "df", ...COPIED[law].heads, "F", "p"],
            ...anova.map((r) => [r.name, r.df, ...COPIED[law].of(r), r.f, r.p]),
          ]}
        />,
        <table className={`${css.table} ${css.tight}`}>
          <thead>
            <tr>
              <th>Source</th>
              <th>df</th>
              <SquaresHeads law={law} />
              <th>F</th>
              <th>p</th>
            </tr>
          </thead>
          <tbody>
            {anova.map((r) => (
              <tr key={r.source + r.name}>
                <td
                  style={{
                    paddingLeft:
                      r.source === "term" ||
                      r.source === "lack-of-fit" ||
                      r.source === "pure-error" ||
                      r.source === "curvature"
                        ? 14
                        : 5,
                  }}
                >
                  {r.name}
                </td>
                <td>{r.df}</td>
                <SquaresCells row={r} law={law} />
                <td title={String(r.f ?? "")}>{r.f === null ? "" : r.f < 1000 ? r.f.toFixed(2) : figure(r.f, 4)}</td>
                <td title={String(r.p ?? "")}>{pCell(r.p)}</td>
              </tr>
            ))}
          </tbody>
        </table>,
      )}
      {fitted.linear.model.members.length > 1 && (
        <p className="small warning">
          Figures of the single model chosen; predictions, equation and setpoint come from the average of{" "}
          {fitted.linear.model.members.length} models.
        </p>
      )}
      {setups && <Components study={study} fit={fit} of={setups} />}
      <Cells study={study} fitted={fitted} />
      {fit.lackOfFit?.approximate && (
        <p className="small quiet">
          Pure error is approximate: some repeats ran at settings that differ within a step.
        </p>
      )}
      {fit.absent.map((a) => (
        <p key={a.code} className="small warning" style={{ marginTop: 6 }}>
          {messageText("remarks", a)}
        </p>
      ))}
    </div>
  );
}
