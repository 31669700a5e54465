"use client";
import { Button } from "antd";
import { lazy, Suspense, useDeferredValue, useEffect, useMemo, useState } from "react";
import { type Evidence, questionReadings } from "@/core/findings";
import { useDesk } from "@/ui/desk/store";
import { Confidence } from "@/ui/parts/confidence";
import { StationFrame } from "@/ui/shell/frame";
import { Costs } from "./costs";
import { CovariateTable } from "./covariate-table";
import { FactorTable } from "./factor-table";
import { RegionEditor } from "./region-editor";
import { ResponseTable } from "./response-table";

const StartSheetDialog = lazy(() => import("./start-sheet").then((m) => ({ default: m.StartSheetDialog })));

/** What a question looks like, while nothing is asked yet. */
const ForExample = ({ sheet }: { sheet(): void }) => (
  <section className="small quiet" aria-label="An example of a question" style={{ marginTop: 26, maxWidth: 760 }}>
    <h2>For example</h2>
    <p>
      <b>Measured</b>, each a response: Residual grease in %, keep within 0.35 to 0.6, noise 0.02; Whiteness, raise from
      58 to 66.
    </p>
    <p>
      <b>Set</b>, each a factor: Bowl temperature in °C, 52 to 68 in steps of 1; Detergent in g/kg, 4 to 10; Wool lot,
      hill or lowland.
    </p>
    <p>
      <b>Noise</b> is how much two runs at the same settings differ (one standard deviation); <b>smallest</b> is the
      least change worth finding. With both, Plan says how many trials are enough.
    </p>
    <p>Rows copied from a spreadsheet can be pasted into both tables.</p>
    <p style={{ marginTop: 8 }}>
      <Button onClick={sheet}>Start from a sheet…</Button> of trials that were run already: factors, responses and
      trials are made of it.
    </p>
  </section>
);

/** Name what is measured, then what is set, then what must never be run. */
export function QuestionStation() {
  const study = useDesk((d) => d.study);
  const [sheet, setSheet] = useState(false);
  // As the station opens what is measured stands first, the rest a moment later.
  const opened = useDeferredValue(true, false);
  const readings = useMemo(() => questionReadings(study), [study]);
  // Home and empty stations lead here with the sheet asked for.
  useEffect(() => {
    if (window.location.hash === "#sheet") setSheet(true);
  }, []);
  const show = (evidence: Evidence): void =>
    document.getElementById(evidence)?.scrollIntoView({ block: "start", behavior: "smooth" });
  return (
    <StationFrame
      name="Question"
      heading={
        <div className="row grow" style={{ flexWrap: "wrap" }}>
          <span className="quiet grow">Goals, units, steps and limits are said here once and used everywhere.</span>
          <Confidence />
        </div>
      }
      readings={readings}
      onShow={show}
    >
      <ResponseTable />
      {opened && (
        <>
          <FactorTable />
          <CovariateTable />
          <RegionEditor />
          {study.factors.length > 0 && <Costs />}
        </>
      )}
      {study.responses.length === 0 && study.factors.length === 0 && <ForExample sheet={() => setSheet(true)} />}
      {sheet && (
        <Suspense fallback={null}>
          <StartSheetDialog study={study} close={() => setSheet(false)} />
        </Suspense>
      )}
    </StationFrame>
  );
}
