"use client";
import { lazy, memo, Suspense, useRef } from "react";
import type { Check } from "@/core";
import { FigureTools } from "@/ui/parts/figure-tools";
import css from "./model.module.css";
import { MapView } from "./views/map";
import type { ViewProps } from "./views/view";

// The map stands when the station opens; the others are fetched when first asked for.
const ChecksView = lazy(() => import("./views/checks").then((m) => ({ default: m.ChecksView })));
const EquationView = lazy(() => import("./views/equation").then((m) => ({ default: m.EquationView })));
const HalfNormalView = lazy(() => import("./views/half-normal").then((m) => ({ default: m.HalfNormalView })));
const PairsView = lazy(() => import("./views/pairs").then((m) => ({ default: m.PairsView })));
const TableView = lazy(() => import("./views/table").then((m) => ({ default: m.TableView })));

const CornersView = lazy(() => import("./views/corners").then((m) => ({ default: m.CornersView })));
const RivalsView = lazy(() => import("./views/rivals").then((m) => ({ default: m.RivalsView })));
const SharesView = lazy(() => import("./views/shares").then((m) => ({ default: m.SharesView })));

export const VIEWS = [
  "Map",
  "Pairs",
  "Corners",
  "Half-normal",
  "Checks",
  "Rivals",
  "Table",
  "Equation",
  "Shares",
] as const;
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
  const panel = useRef<HTMLDivElement>(null);
  return (
    <>
      <div ref={panel} className={css.view} role="tabpanel" aria-label={view}>
        <Suspense fallback={null}>
          {shown && view === "Map" && <MapView {...shown} />}
          {shown && view === "Pairs" && <PairsView {...shown} marked={marked} />}
          {shown && view === "Half-normal" && <HalfNormalView {...shown} toggle={toggle} />}
          {shown && view === "Checks" && (
            <ChecksView key={`${shown.fitted.fit.response}-${marked}`} {...shown} marked={marked} checks={checks} />
          )}
          {shown && view === "Table" && <TableView {...shown} />}
          {shown && view === "Equation" && <EquationView {...shown} />}
          {shown && view === "Corners" && <CornersView {...shown} />}
          {shown && view === "Rivals" && <RivalsView key={shown.fitted.fit.response} {...shown} />}
          {shown && view === "Shares" && <SharesView {...shown} />}
        </Suspense>
      </div>
      <div className={css.tools}>
        <span className="grow" />
        {view !== "Equation" && view !== "Table" && (
          <>
            copy the figure <FigureTools panel={panel} name={`${shown?.fitted.fit.response ?? "figure"} ${view}`} />
          </>
        )}
      </div>
    </>
  );
});
