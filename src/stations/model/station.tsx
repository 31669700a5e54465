"use client";
import { StationFrame } from "@/ui/shell/frame";

export function ModelStation() {
  return (
    <StationFrame name="Model" readings={[]} probe>
      <p />
    </StationFrame>
  );
}
