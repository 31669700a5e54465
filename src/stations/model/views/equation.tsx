"use client";
import { useMemo } from "react";
import { alphabetOf, equationOf, termName } from "@/core";
import css from "../model.module.css";
import { CopyRows } from "./copy-rows";
import type { ViewProps } from "./view";

/** The equation in coded and in natural units. */
export function EquationView({ study, fitted }: ViewProps) {
  const equation = useMemo(() => equationOf(study, fitted.fit), [study, fitted]);
  const response = study.responses.find((r) => r.id === fitted.fit.response);
  const { link } = fitted.fit.model;
  const left = link.identity ? (response?.name ?? "") : `${link.name}(${response?.name})`;
  return (
    <div>
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
              rows={n.coefficients.map((c) => [termName(alphabetOf(study), c.term), c.coefficient])}
            />
          </div>
          <div className={css.equation}>
            {left} = {n.text}
          </div>
        </div>
      ))}
      {equation.note && <p className="quiet">{equation.note}</p>}
      <p className="small quiet">Waves stand at their average. “copy” takes every coefficient at full precision.</p>
    </div>
  );
}
