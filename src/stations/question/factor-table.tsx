"use client";
import { lazy, Suspense, useState } from "react";
import { listed } from "@/core/findings";
import { readNumber } from "@/core/formats";
import { edit, hardFactors, isActive, offeredStep, pricesOf } from "@/core/study";
import { useDesk } from "@/ui/desk/store";
import { DraftField } from "@/ui/parts/draft";
import { LinkButton } from "@/ui/parts/link-button";
import { useTroubles } from "@/ui/parts/use-troubles";
import type { Asking } from "./ask-setting";
import { FactorRow } from "./factor-row";
import { NewFactor } from "./new-factor";
import css from "./question.module.css";

// Fetched when it is first asked.
const AskSetting = lazy(() => import("./ask-setting").then((m) => ({ default: m.AskSetting })));

/** What setting the hard factors anew costs beside a trial; asked where a factor is hard to change. */
function SetupCost({ onTrouble }: { onTrouble: ReturnType<typeof useTroubles>["tell"] }) {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const hard = hardFactors(study);
  // Stated in one's own unit it stands with what else costs.
  if (hard.length === 0 || pricesOf(study).unit !== undefined) return null;
  return (
    <span className="row small" style={{ gap: 4, marginLeft: "auto" }}>
      <span className="quiet" title={`Setting ${listed(hard.map((f) => f.name))} anew, in trials`}>
        Setting {listed(hard.map((f) => f.letter))} anew costs
      </span>
      <DraftField
        name="setupCost"
        label="Cost of a set-up, in trials"
        mono
        align="right"
        width={46}
        value={study.setupCost === undefined ? "" : String(study.setupCost)}
        placeholder="0"
        onTrouble={onTrouble}
        take={(t) => {
          const v = readNumber(t);
          if (v === undefined || (v !== null && (v < 0 || v > 10000)))
            return `The cost of a set-up “${t}” must be a number of trials from 0 to 10,000, or empty.`;
          return commit([edit(study, ["setupCost"], v)], "cost of a set-up");
        }}
      />
      <span className="quiet">trials</span>
    </span>
  );
}

/** Factors of which no step is stated, and steps to take; nothing where each has one. */
function OfferedSteps() {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const offered = study.factors.flatMap((f) => {
    const step = isActive(f) ? offeredStep(f) : undefined;
    return step === undefined ? [] : [{ f, step }];
  });
  if (offered.length === 0) return null;
  const steps = offered.map(({ f, step }) => `${f.name} ${step}${f.unit ? ` ${f.unit}` : ""}`);
  return (
    <p className="small quiet" style={{ marginTop: 4 }}>
      Without a step, plans and setpoints may ask for any value. In which steps is it set?{" "}
      <LinkButton
        onClick={() =>
          commit(
            offered.map(({ f, step }) => edit(study, ["factors", f.id, "step"], step)),
            `${offered.length === 1 ? "step" : "steps"} of ${listed(offered.map(({ f }) => f.name))}`,
          )
        }
      >
        Take {listed(steps)}
      </LinkButton>
    </p>
  );
}

const WIDTHS: [string, number | string][] = [
  ["letter", 34],
  ["factor", "21%"],
  ["unit", "8%"],
  ["range", "18%"],
  ["step", "8%"],
  ["tolerance", "8%"],
  ["limits", "13%"],
  ["change", "11%"],
  ["positions", 124],
  ["menu", 34],
];

/** What is set: one dense table; the last row takes a new factor by name, unit and range. */
export function FactorTable() {
  const study = useDesk((d) => d.study);
  const { first, tell } = useTroubles();
  const [asking, setAsking] = useState<Asking | undefined>(undefined);
  const [notice, setNotice] = useState<string | undefined>(undefined);
  return (
    <section id="factors" aria-label="Factors">
      <div className={css.section}>
        <h2>What is set</h2>
        <span className="small quiet">
          A range like 52 to 68, listed values like 1, 2, 4, or levels like hill, lowland.
        </span>
        <SetupCost onTrouble={tell} />
      </div>
      <table className={css.table} data-grid="factors">
        <colgroup>
          {WIDTHS.map(([name, width]) => (
            <col key={name} style={{ width }} />
          ))}
        </colgroup>
        <thead>
          <tr>
            <th />
            <th>Factor</th>
            <th>Unit</th>
            <th>Range or levels</th>
            <th style={{ textAlign: "right" }}>Step</th>
            <th style={{ textAlign: "right" }}>± set</th>
            <th>Hard limits</th>
            <th>To change</th>
            <th>Positions</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {study.factors.map((f, row) => (
            <FactorRow key={f.id} factor={f} row={row} tell={tell} ask={setAsking} notice={setNotice} />
          ))}
          <NewFactor tell={tell} ask={setAsking} notice={setNotice} />
        </tbody>
      </table>
      <OfferedSteps />
      {(first ?? notice) && (
        <p className={css.wrong} role="alert">
          {first ?? notice}
        </p>
      )}
      <Suspense fallback={null}>{asking && <AskSetting asking={asking} close={() => setAsking(undefined)} />}</Suspense>
    </section>
  );
}
