"use client";
import { Button } from "antd";
import { Fragment, Suspense } from "react";
import { PickedHead } from "./picked-head";
import css from "./plan.module.css";
import { rows } from "./rows";
import type { Planning } from "./use-planning";

/** Plans picked in the chart side by side, row by row. */
export function PickedPlans({
  planning,
  open,
  setOpen,
}: {
  planning: Planning;
  open: Readonly<Record<string, boolean>>;
  setOpen(open: Record<string, boolean>): void;
}) {
  const { picked, first, search } = planning;
  if (picked.length === 0)
    return (
      <p className={css.empty}>
        {search.running && !first
          ? "No plan on offer yet tells all that is asked; one is being searched for."
          : "Pick up to three plans in the chart to read them side by side."}
      </p>
    );
  return (
    <div className={css.picked} style={{ gridTemplateColumns: `124px repeat(${picked.length}, minmax(0, 1fr))` }}>
      <PickedHead planning={planning} />
      {rows
        .filter((r) => r.speaks?.(planning) ?? true)
        .map((r) => (
          <Fragment key={r.key}>
            <div className={css.rowname} id={`row-${r.key}`}>
              <Button
                type="text"
                size="small"
                className={css.fold}
                aria-expanded={open[r.key] ?? false}
                onClick={() => setOpen({ ...open, [r.key]: !open[r.key] })}
              >
                <strong>
                  {open[r.key] ? "▾" : "▸"} {r.name}
                </strong>
              </Button>
              {open[r.key] && <div>{r.note(planning)}</div>}
            </div>
            {picked.map((s, i) => (
              <div key={s.id} className={css.cell}>
                {open[r.key] && r.Cell && (
                  <Suspense fallback="…">
                    <r.Cell planning={planning} plan={s} at={i} detail={planning.details[i]} />
                  </Suspense>
                )}
              </div>
            ))}
            {open[r.key] && r.Across && (
              <>
                <div className={css.rowname} />
                <div className={css.cell} style={{ gridColumn: `2 / span ${picked.length}` }}>
                  <Suspense fallback="…">
                    <r.Across planning={planning} />
                  </Suspense>
                </div>
              </>
            )}
          </Fragment>
        ))}
    </div>
  );
}
