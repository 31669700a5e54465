"use client";
import { Button, Input } from "antd";
import { useState } from "react";
import { costText } from "@/core/findings";
import { planCsv } from "@/core/formats";
import { type PlanSummary, requestedTerms, seesSomething } from "@/core/plans";
import { pricesOf } from "@/core/study";
import { LinkButton } from "@/ui/parts/link-button";
import { saveText } from "@/ui/parts/save-text";
import css from "./plan.module.css";
import { letterOf, type Planning } from "./use-planning";

/** What a picked plan comes to, in a few words. */
function Verdict({ planning: { study, deferred }, plan: s }: { planning: Planning; plan: PlanSummary }) {
  const prices = pricesOf(study);
  const told = s.tellsAll
    ? "tells all that is asked"
    : s.plan.excluded > 0
      ? `loses ${s.plan.excluded} ${s.plan.excluded === 1 ? "trial" : "trials"} to the region`
      : `${s.lostTerms.length} of ${requestedTerms(study, deferred).length} cannot be told apart`;
  return (
    <span className={`small ${s.tellsAll ? "success" : "warning"}`}>
      {s.n} trials{s.strata && !s.strata.reset ? ` in ${s.strata.setups} set-ups` : ""}
      {prices.unit === undefined ? "" : `, ${costText(prices, s.cost)}`} · {told}
      {seesSomething(s) ? "" : "; sees nothing smaller than 6 σ"}
    </span>
  );
}

/** The heads of the plans picked: name, what they come to, adopt, keep under a name, save. */
export function PickedHead({ planning }: { planning: Planning }) {
  const { study, picked, adopt, keep, forget } = planning;
  const [naming, setNaming] = useState<{ plan: string; text: string } | undefined>(undefined);
  const done = (s: PlanSummary): void => {
    if (naming) keep(s, naming.text);
    setNaming(undefined);
  };
  // One main button: the plan picked last is the one to go by, unless it sees nothing.
  const main = [...picked].reverse().find((s) => s.tellsAll && seesSomething(s));
  return (
    <>
      <div />
      {picked.map((s, i) => (
        <div key={s.id} className={css.head}>
          <span className={css.letter}>{letterOf(i)}</span>
          {naming?.plan === s.id ? (
            <Input
              className="grow"
              style={{ minWidth: 60 }}
              aria-label="Name of the plan"
              autoFocus
              maxLength={80}
              value={naming.text}
              onChange={(e) => setNaming({ plan: s.id, text: e.target.value })}
              onBlur={() => done(s)}
              onKeyDown={(e) => {
                if (e.key === "Enter") done(s);
                if (e.key === "Escape") setNaming(undefined);
              }}
            />
          ) : (
            <strong className={css.planName} title={s.label}>
              {s.label}
              {(s.options.centre ?? 0) > 0 && !s.rival && !s.follow ? ` + ${s.options.centre}` : ""}
            </strong>
          )}
          <Button size="small" type={s === main ? "primary" : "default"} onClick={() => adopt(s)} data-adopt={s.id}>
            Adopt as wave {study.waves.length + 1}
          </Button>
        </div>
      ))}
      <div className={css.rowname} />
      {picked.map((s) => (
        <div key={s.id} className={css.verdict}>
          <Verdict planning={planning} plan={s} />
          <span className="grow" />
          {!s.follow && (
            <LinkButton className="small" onClick={() => setNaming({ plan: s.id, text: s.rival ?? s.label })}>
              {s.rival ? "rename" : "keep"}
            </LinkButton>
          )}
          {s.rival && (
            <LinkButton className="small" onClick={() => forget(s)}>
              let go
            </LinkButton>
          )}
          <LinkButton className="small" onClick={() => saveText(planCsv(study, s.plan), `${s.label}.csv`)}>
            CSV
          </LinkButton>
        </div>
      ))}
    </>
  );
}
