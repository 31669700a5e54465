"use client";
import type { NumericFactor } from "@/core";

/** Chooses which two factors a map is drawn over. */
export function AxisPick({
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
    <select
      className="field"
      style={{ height: 26, minWidth: 0, maxWidth: 150, flex: "1 1 90px" }}
      aria-label={which === "x" ? "Across" : "Upwards"}
      value={now}
      onChange={(e) =>
        pick(which === "x" ? { x: e.target.value, ...(e.target.value === y ? { y: x } : {}) } : { y: e.target.value })
      }
    >
      {factors
        .filter((f) => which === "x" || f.id !== x)
        .map((f) => (
          <option key={f.id} value={f.id}>
            {f.name}
          </option>
        ))}
    </select>
  );
  return (
    <div className="row small" style={{ marginBottom: 4, minWidth: 0, maxWidth: "100%" }}>
      {select("x", x)} <span className="quiet">across,</span> {select("y", y)} <span className="quiet">up</span>
    </div>
  );
}
