"use client";
import { useMemo } from "react";
import { listed, messageText } from "@/core/findings";
import { equationOf, type Link } from "@/core/model";
import { alphabetOf, termKey, termName, withoutParents } from "@/core/study";
import { Assumed } from "@/ui/parts/assumed";
import { CopyRows } from "@/ui/parts/copy-rows";
import { Fold } from "@/ui/parts/fold";
import { figure } from "@/ui/parts/format";
import css from "../model.module.css";
import type { ViewProps } from "./view";

/** What the left side of an equation of counts is, in words, and the way back. */
const linkText = (multiplies: Link["multiplies"], name: string, unit: string | undefined): string =>
  multiplies === "odds"
    ? `logit(${name}) = ln(p/(1 − p)) of the share p; back: p = 1/(1 + e^(−value)).`
    : `log(${name}) = ln of the rate per ${unit ?? "unit of exposure"}; back: rate = e^value.`;

/** The equation in coded and in natural units. */
export function EquationView({ study, fitted }: ViewProps) {
  const equation = useMemo(() => equationOf(study, fitted.fit, fitted.linear.model), [study, fitted]);
  const orphans = withoutParents(fitted.fit.terms).map((t) => termName(alphabetOf(study), t));
  const response = study.responses.find((r) => r.id === fitted.fit.response);
  const { link, likelihood } = fitted.fit.model;
  const left = link.identity ? (response?.name ?? "") : `${link.name}(${response?.name})`;
  const inWords = likelihood && linkText(link.multiplies, response?.name ?? "", response?.unit);
  return (
    <div>
      {inWords && <p className="small quiet">{inWords}</p>}
      <div className="row">
        <h2 className="grow">Coded units, −1 at low and +1 at high</h2>
        <CopyRows what="Equation" rows={[[`${left} = ${equation.coded}`]]} />
      </div>
      <div className={css.equation}>
        {left} = {equation.coded}
      </div>
      {equation.natural.map((n) => (
        <div key={JSON.stringify(n.when)}>
          <div className="row">
            <h2 className="grow">
              Natural units
              {n.when
                ? ` · ${Object.entries(n.when)
                    .map(([id, l]) => `${study.factors.find((f) => f.id === id)?.name} ${l}`)
                    .join(", ")}`
                : ""}
            </h2>
            <CopyRows
              what="Coefficients at full precision"
              rows={[
                ["term", "coefficient", "standard error", "from", "to"],
                ...n.coefficients.map((c) => [
                  termName(alphabetOf(study), c.term),
                  c.coefficient,
                  c.standardError,
                  c.interval?.[0],
                  c.interval?.[1],
                ]),
              ]}
            />
          </div>
          <div className={css.equation}>
            {left} = {n.text}
          </div>
          <Fold title={<>Its coefficients with their {Math.round(100 * study.confidence)} % intervals</>}>
            <table className={`${css.table} ${css.tight}`}>
              <thead>
                <tr>
                  <th>Term</th>
                  <th>coefficient</th>
                  <th>
                    from
                    <Assumed ratio={fitted.predictor.assumed} />
                  </th>
                  <th>
                    to
                    <Assumed ratio={fitted.predictor.assumed} />
                  </th>
                </tr>
              </thead>
              <tbody>
                {n.coefficients.map((c) => (
                  <tr key={termKey(c.term)}>
                    <td>{termName(alphabetOf(study), c.term)}</td>
                    <td title={String(c.coefficient)}>{figure(c.coefficient, 5)}</td>
                    <td>{c.interval ? figure(c.interval[0], 4) : "–"}</td>
                    <td>{c.interval ? figure(c.interval[1], 4) : "–"}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </Fold>
        </div>
      ))}
      {equation.note && <p className="quiet">{messageText("remarks", equation.note)}</p>}
      {orphans.length > 0 && (
        <p className="small quiet">
          {listed(orphans)} {orphans.length === 1 ? "stands" : "stand"} without what{" "}
          {orphans.length === 1 ? "it is" : "they are"} made of: in coded units that effect is nothing; in natural units
          it comes back, by where the middles lie.
        </p>
      )}
      {fitted.fit.curvature && (
        <p className="small quiet">
          This is the plane of the corners; the centre,{" "}
          {figure(fitted.ladder.standing.find((r) => r.id === "curvature")?.size ?? 0, 3)} off it, has a column of its
          own.
        </p>
      )}
      <p className="small quiet">
        {fitted.linear.model.members.length > 1
          ? `Of the average of ${fitted.linear.model.members.length} models, which predictions come from. `
          : ""}
        {new Set(fitted.fit.data.waves).size > 1 && fitted.fit.fitting.block ? "Waves stand at their average. " : ""}
        “copy” takes every coefficient at full precision.
      </p>
    </div>
  );
}
