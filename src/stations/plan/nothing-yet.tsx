"use client";
import { Button } from "antd";
import css from "./plan.module.css";
import type { Planning } from "./use-planning";

/** In place of the chart while no plan is in sight: why, and what can be done. */
export function NothingYet({ planning: { study, search, request }, bring }: { planning: Planning; bring(): void }) {
  const why =
    study.factors.length < 2
      ? "Plans appear here once Question lists two factors."
      : search.running
        ? "Looking at plans…"
        : (search.trouble ??
          search.step.refusals[0]?.text ??
          `No plan fits ${request.budget} trials; raise the budget.`);
  return (
    <div className={css.empty}>
      <p>{why}</p>
      {study.factors.length >= 2 && (
        <p style={{ marginTop: 8 }}>
          <Button onClick={bring}>Take trials run elsewhere</Button>
        </p>
      )}
    </div>
  );
}
