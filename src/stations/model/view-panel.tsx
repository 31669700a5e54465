"use client";
import { memo } from "react";
import type { Check } from "@/core";
import css from "./model.module.css";
import { ChecksView } from "./views/checks";
import { EquationView } from "./views/equation";
import { HalfNormalView } from "./views/half-normal";
import { MapView } from "./views/map";
import { PairsView } from "./views/pairs";
import { TableView } from "./views/table";
import type { ViewProps } from "./views/view";

export const VIEWS = ["Map", "Pairs", "Half-normal", "Checks", "Table", "Equation"] as const;
export type View = (typeof VIEWS)[number];

/** The view beside the ladder; drawn anew only when what it shows has changed. */
export const ViewPanel = memo(function ViewPanel({
  view,
  shown,
  marked,
  checks,
  toggle,
}: {
  view: View;
  shown: ViewProps | undefined;
  marked: string | undefined;
  checks: readonly Check[] | undefined;
  toggle(key: string): void;
}) {
  return (
    <div className={css.view} role="tabpanel" aria-label={view}>
      {shown && view === "Map" && <MapView {...shown} />}
      {shown && view === "Pairs" && <PairsView {...shown} marked={marked} />}
      {shown && view === "Half-normal" && <HalfNormalView {...shown} toggle={toggle} />}
      {shown && view === "Checks" && <ChecksView key={`${shown.fitted.fit.response}-${marked}`} {...shown} marked={marked} checks={checks} />}
      {shown && view === "Table" && <TableView {...shown} />}
      {shown && view === "Equation" && <EquationView {...shown} />}
    </div>
  );
});
