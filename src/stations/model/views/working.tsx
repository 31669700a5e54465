"use client";
import { useState } from "react";
import { messageText, pFigure, pText } from "@/core/findings";
import { handWorking, type WorkingEffect } from "@/core/model";
import { alphabetOf, termKey, termLetters, termName } from "@/core/study";
import { CopyRows } from "@/ui/parts/copy-rows";
import { figure } from "@/ui/parts/format";
import { Pick } from "@/ui/parts/pick";
import { ScrollBox } from "@/ui/parts/scroll-box";
import css from "../model.module.css";
import type { ViewProps } from "./view";

const optional = (v: number | null, digits: number): string => (v === null ? "–" : figure(v, digits));
/** Beyond this many cells the sign table is not drawn, and effects only so far; a copy takes them whole. */
const MOST_DRAWN = 64;

/** One effect in sentences. */
function Unfolded({ effect: e, name, pooled }: { effect: WorkingEffect; name: string; pooled: number | null }) {
  return (
    <p className="small" data-testid="working-sentences">
      {name}: results at + add up to <b className="num">{figure(e.plus, 5)}</b>, at − to{" "}
      <b className="num">{figure(e.minus, 5)}</b>. Their difference, {figure(e.plus - e.minus, 5)}, over {e.divisor}{" "}
      results a side is the effect <b className="num">{figure(e.effect, 4)}</b>.{" "}
      {pooled === null || e.standardError === null
        ? "No combination was run twice, so nothing judges it by hand."
        : `With the pooled variance ${figure(pooled, 4)} its standard error is √(${figure(pooled, 4)} × (1/${e.divisor} + 1/${e.divisor})) = ${figure(e.standardError, 4)}, and t = ${figure(e.effect, 4)} / ${figure(e.standardError, 4)} = ${optional(e.t, 4)}, ${e.p === null ? "p –" : pText(e.p)}.`}
    </p>
  );
}

/** More trials than anyone follows by hand; their contrasts would hold up the page. */
const MOST_TRIALS = 256;

/** Every two-level effect worked out by hand: signs, totals, divisor, effect, pooled variance, t and p. */
export function WorkingView({ study, fitted }: ViewProps) {
  const { n, model } = fitted.fit;
  if (model.likelihood)
    return (
      <p className="quiet">
        Counts are fitted by likelihood, which no sign table follows; Table holds what the deviance rises by when each
        term leaves.
      </p>
    );
  return n > MOST_TRIALS ? (
    <p className="quiet">{n} trials are too many to follow by hand; Half-normal and Table hold their effects.</p>
  ) : (
    <EffectsByHand study={study} fitted={fitted} />
  );
}

/** The tables and sentences of all effects. */
function EffectsByHand({ study, fitted }: ViewProps) {
  const { contrasts, refusal } = fitted.contrasts;
  const [chosen, setChosen] = useState<string | undefined>(undefined);
  if (contrasts.length === 0)
    return <p className="quiet">{messageText("remarks", refusal ?? { code: "contrasts-no-corners", values: {} })}</p>;
  const { cells, effects, pooled, shifts } = handWorking(fitted.fit, contrasts);
  const off = shifts
    .map(({ wave, shift }) => `${study.waves.find((w) => w.id === wave)?.name ?? wave} ${figure(shift, 4)}`)
    .join(", ");
  const alphabet = alphabetOf(study);
  const orders = new Map(study.trials.map((t) => [t.id, t.order]));
  const letters = effects.map((e) =>
    e.chain.length > 1 ? `${termLetters(alphabet, e.term)} …` : termLetters(alphabet, e.term),
  );
  const one =
    effects.find((e) => termKey(e.term) === chosen) ??
    effects.reduce((a, b) => (Math.abs(b.effect) > Math.abs(a.effect) ? b : a));
  const shownSigns = cells.length <= MOST_DRAWN && effects.length <= 15;
  return (
    <div>
      <div className="row" style={{ margin: "2px 0 4px" }}>
        <h2 className="grow">Effects by hand</h2>
        <CopyRows
          what="Working"
          rows={() => [
            ["trials", ...letters, "results", "total", "variance"],
            ...cells.map((c) => [
              c.trials.map((t) => orders.get(t)).join(" "),
              ...c.signs,
              c.results.join(" "),
              c.total,
              c.variance,
            ]),
            [],
            ["effect", "sum at +", "sum at −", "divisor", "effect", "standard error", "t", "df", "p"],
            ...effects.map((e, i) => [
              letters[i],
              e.plus,
              e.minus,
              e.divisor,
              e.effect,
              e.standardError,
              e.t,
              pooled?.df,
              e.p,
            ]),
          ]}
        />
      </div>
      <p className="small quiet" style={{ margin: "6px 0" }}>
        {pooled
          ? `Pooled variance: ${figure(pooled.sumOfSquares, 4)} / ${pooled.df} = ${figure(pooled.variance, 4)}, from combinations run more than once. Corner trials only.`
          : "No combination was run more than once, so there is no variance to pool. Corner trials only."}
        {off && ` Variances are of results less what their wave stands off the first: ${off}.`}
      </p>
      <table className={`${css.table} ${css.tight}`} aria-label="Effects by hand">
        <thead>
          <tr>
            <th>effect of</th>
            <th>Σ at +</th>
            <th>Σ at −</th>
            <th>over</th>
            <th>effect</th>
            <th>error</th>
            <th>t</th>
            <th>p</th>
          </tr>
        </thead>
        <tbody>
          {effects.slice(0, MOST_DRAWN).map((e) => (
            <tr key={termKey(e.term)} data-row={termKey(e.term)}>
              <td title={e.chain.map((c) => termName(alphabet, c.term)).join(" and ")}>
                {termName(alphabet, e.term)}
                {e.chain.length > 1 && <small>with {e.chain.length - 1} more in its chain</small>}
              </td>
              <td>{figure(e.plus, 5)}</td>
              <td>{figure(e.minus, 5)}</td>
              <td>{e.divisor}</td>
              <td>{figure(e.effect, 4)}</td>
              <td>{optional(e.standardError, 3)}</td>
              <td>{optional(e.t, 3)}</td>
              <td title={String(e.p ?? "")}>{e.p === null ? "–" : pFigure(e.p)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {effects.length > MOST_DRAWN && <p className="small quiet">“copy” takes all {effects.length}.</p>}
      <div className="row small" style={{ margin: "8px 0 4px" }}>
        <Pick
          label="Effect to follow"
          value={termKey(one.term)}
          options={effects.map((e) => [termKey(e.term), termName(alphabet, e.term)])}
          set={setChosen}
        />
      </div>
      <Unfolded effect={one} name={termName(alphabet, one.term)} pooled={pooled?.variance ?? null} />
      <h3 style={{ margin: "10px 0 4px" }}>Signs, results and totals</h3>
      {shownSigns ? (
        <ScrollBox className={css.wideTable} name="Sign table">
          <table className={`${css.table} ${css.tight}`}>
            <thead>
              <tr>
                <th>trials</th>
                {letters.map((l) => (
                  <th key={l}>{l}</th>
                ))}
                <th>results</th>
                <th>total</th>
                <th>s²</th>
              </tr>
            </thead>
            <tbody>
              {cells.map((c) => (
                <tr key={c.trials[0]}>
                  <td>{c.trials.map((t) => orders.get(t)).join(", ")}</td>
                  {c.signs.map((s, i) => (
                    <td key={letters[i]}>{s > 0 ? "+" : "−"}</td>
                  ))}
                  <td>{c.results.map((v) => figure(v, 4)).join("; ")}</td>
                  <td>{figure(c.total, 5)}</td>
                  <td>{optional(c.variance, 3)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </ScrollBox>
      ) : (
        <p className="small quiet">The sign table has {cells.length} lines; “copy” takes it whole.</p>
      )}
    </div>
  );
}
