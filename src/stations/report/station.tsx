"use client";
import { StationFrame } from "@/ui/shell/frame";

export function ReportStation() {
  return (
    <StationFrame name="Report" readings={[]} probe>
      <p />
    </StationFrame>
  );
}
