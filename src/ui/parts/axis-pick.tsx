"use client";
import { memo } from "react";
import type { NumericFactor } from "@/core/study";
import { named, Pick } from "@/ui/parts/pick";

/** Chooses which two factors a map is drawn over. */
export const AxisPick = memo(function AxisPick({
  factors,
  x,
  y,
  pick,
}: {
  factors: readonly NumericFactor[];
  x: string;
  y: string;
  pick(axes: { x?: string; y?: string }): void;
}) {
  const select = (which: "x" | "y", now: string) => (
    <Pick
      style={{ minWidth: 84, maxWidth: 150, flex: "1 1 90px" }}
      label={which === "x" ? "Across" : "Upwards"}
      value={now}
      options={named(factors.filter((f) => which === "x" || f.id !== x))}
      set={(id) => pick(which === "x" ? { x: id, ...(id === y ? { y: x } : {}) } : { y: id })}
    />
  );
  return (
    <div className="row small" style={{ marginBottom: 4, minWidth: 0, maxWidth: "100%" }}>
      {select("x", x)} <span className="quiet">across,</span> {select("y", y)} <span className="quiet">up</span>
    </div>
  );
});
