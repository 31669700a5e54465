"use client";
import { useMemo } from "react";
import { type Evidence, questionReadings } from "@/core";
import { useDesk } from "@/ui/desk/store";
import { Confidence } from "@/ui/parts/confidence";
import { StationFrame } from "@/ui/shell/frame";
import { CovariateTable } from "./covariate-table";
import { FactorTable } from "./factor-table";
import { RegionEditor } from "./region-editor";
import { ResponseTable } from "./response-table";

/** Name what is measured, then what is set, then what must never be run. */
export function QuestionStation() {
  const study = useDesk((d) => d.study);
  const readings = useMemo(() => questionReadings(study), [study]);
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
      <FactorTable />
      <CovariateTable />
      <RegionEditor />
    </StationFrame>
  );
}
