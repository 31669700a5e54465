"use client";
import { useMemo } from "react";
import { messageText } from "@/core/findings";
import { importanceOf } from "@/core/model";
import { alphabetOf, termName } from "@/core/study";
import { Meter } from "@/ui/charts/marks/bars";
import { CopyRows } from "@/ui/parts/copy-rows";
import { figure, percent } from "@/ui/parts/format";
import css from "../model.module.css";
import type { ViewProps } from "./view";

/** One bar of a share with its name before and its figure behind. */
function ShareBar({ name, share, inner, quiet }: { name: string; share: number; inner?: number; quiet?: boolean }) {
  return (
    <div
      className={css.share}
      title={`${name}: ${percent(share, 2)}${inner === undefined ? "" : `, ${percent(inner, 2)} by itself`}`}
    >
      <span>{name}</span>
      <svg width="100%" height="16" viewBox="0 0 100 16" preserveAspectRatio="none" aria-hidden="true">
        <Meter share={share} inner={inner} length={100} thick={12} y={2} colour={quiet ? "dull" : "accent"} />
      </svg>
      <b className="num">{percent(share, share < 0.0995 ? 1 : 0)}</b>
    </div>
  );
}

/** Where the variation comes from: term by term in these trials, and factor by factor over the whole region. */
export function SharesView({ study, fitted }: ViewProps) {
  const { fit, ladder, predictor } = fitted;
  const alphabet = alphabetOf(study);
  const { rows: importance, error, absent } = useMemo(() => importanceOf(study, predictor), [study, predictor]);
  const rows = ladder.rungs
    .filter((r) => r.inModel && r.share !== null)
    .sort((a, b) => (b.share ?? 0) - (a.share ?? 0));
  const residual = ladder.rest ?? 0;
  const factors = [...importance].sort((a, b) => b.total - a.total);
  const nameOf = (id: string): string => study.factors.find((f) => f.id === id)?.name ?? id;
  return (
    <div>
      <div className="row">
        <h2 className="grow">Terms, in these trials</h2>
        <CopyRows
          what="Shares"
          rows={[["term", "share"], ...rows.map((r) => [termName(alphabet, r.term), r.share]), ["residual", residual]]}
        />
      </div>
      <p className="small quiet" style={{ marginBottom: 6 }}>
        {ladder.shareOf === "total"
          ? "Share of all variation about the mean. The terms are orthogonal, so shares add up."
          : "Partial share: what each term explains after all others, against their sum and the residual. The terms overlap, so this is one way to split them."}
      </p>
      {rows.map((r) => (
        <ShareBar key={r.key} name={r.name} share={r.share ?? 0} />
      ))}
      {ladder.waves !== null && <ShareBar name="waves" share={ladder.waves} quiet />}
      {ladder.curvature !== null && <ShareBar name="curvature" share={ladder.curvature} quiet />}
      <ShareBar name="not explained" share={residual} quiet />
      <div className="row" style={{ marginTop: 14 }}>
        <h2 className="grow">Factors, over the whole ranges</h2>
        <CopyRows
          what="Importance"
          rows={[
            ["factor", "by itself", "with interactions"],
            ...factors.map((i) => [nameOf(i.factor), i.first, i.total]),
          ]}
        />
      </div>
      <p className="small quiet" style={{ marginBottom: 6 }}>
        Sobol’ indices of the fitted model with every factor spread evenly over its range: dark by itself, pale with its
        interactions.
      </p>
      {absent && <p className="small warning">{messageText("remarks", absent)}</p>}
      {error !== null && <p className="small quiet">From a sample: good to about ±{percent(2 * error, 1)}.</p>}
      {factors.map((i) => (
        <ShareBar key={i.factor} name={nameOf(i.factor)} share={i.total} inner={i.first} />
      ))}
      {fit.summary.s !== null && (
        <p className="small quiet" style={{ marginTop: 8 }}>
          Noise stays beside this: s {figure(fit.summary.s, 3)} from trial to trial.
        </p>
      )}
    </div>
  );
}
