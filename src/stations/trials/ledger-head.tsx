// biome-ignore-all lint/a11y/useFocusableInteractive: one cell at a time has the focus, by the grid that holds them.
// biome-ignore-all lint/a11y/useSemanticElements: drawings and grids drawn in part have no elements of these kinds.
import { type Column, headOf, isFigure, unitOf } from "./columns";
import { FIXED } from "./ledger-row";
import css from "./trials.module.css";

/** Names and units above the columns. */
export function LedgerHead({ columns, width }: { columns: readonly Column[]; width: number }) {
  return (
    <div className={css.head} style={{ width }} role="row">
      {FIXED.map((f, i) => (
        <div
          key={f.name}
          role="columnheader"
          className={i === 0 ? css.first : undefined}
          style={{ width: f.width, textAlign: f.name === "kind" ? "left" : "right" }}
        >
          {f.name}
        </div>
      ))}
      {columns.map((c) => {
        const name = headOf(c);
        const unit = unitOf(c);
        return (
          <div
            key={`${c.kind}-${c.id}`}
            role="columnheader"
            style={{ width: c.width, textAlign: isFigure(c) ? "right" : "left" }}
            title={unit ? `${name}, ${unit}` : name}
          >
            <span className={css.headname}>{name}</span>
            <span style={{ fontWeight: 400 }}>{unit ?? "\u00a0"}</span>
          </div>
        );
      })}
    </div>
  );
}
