"use client";
import { StationFrame } from "@/ui/shell/frame";

export function SetpointStation() {
  return (
    <StationFrame name="Setpoint" readings={[]} probe>
      <p />
    </StationFrame>
  );
}
