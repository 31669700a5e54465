import { type ComponentType, lazy } from "react";
import type { Check } from "@/core/model";
import { MapView } from "./map";
import type { ViewProps } from "./view";

/** What a view may be given beside the model: what is marked, the checks, and how a term is taken in or out. */
export type PanelProps = ViewProps & {
  marked: string | undefined;
  checks: readonly Check[] | undefined;
  /** The checks are those of the state before. */
  late: boolean;
  toggle(key: string): void;
};

/** A view of a model. */
export interface ModelView {
  name: string;
  Panel: ComponentType<PanelProps>;
  /** Holds drawings that can be saved. */
  drawn: boolean;
  /** Starts anew for every response, or for what is marked. */
  anew?: "response" | "marked";
}

/**
 * The views in the order of their tabs: what the response is like, whether to trust it, which model it is. The map
 * stands when the station opens; others come when first asked for.
 */
export const views: readonly ModelView[] = [
  { name: "Map", Panel: MapView, drawn: true },
  { name: "Pairs", Panel: lazy(() => import("./pairs").then((m) => ({ default: m.PairsView }))), drawn: true },
  { name: "Corners", Panel: lazy(() => import("./corners").then((m) => ({ default: m.CornersView }))), drawn: true },
  { name: "Surface", Panel: lazy(() => import("./surface").then((m) => ({ default: m.SurfaceView }))), drawn: false },
  { name: "Limits", Panel: lazy(() => import("./limits").then((m) => ({ default: m.LimitsView }))), drawn: true },
  {
    name: "Half-normal",
    Panel: lazy(() => import("./half-normal").then((m) => ({ default: m.HalfNormalView }))),
    drawn: true,
  },
  {
    name: "Checks",
    Panel: lazy(() => import("./checks").then((m) => ({ default: m.ChecksView }))),
    drawn: true,
    anew: "marked",
  },
  {
    name: "Residuals",
    Panel: lazy(() => import("./residuals").then((m) => ({ default: m.ResidualsView }))),
    drawn: true,
  },
  { name: "Working", Panel: lazy(() => import("./working").then((m) => ({ default: m.WorkingView }))), drawn: false },
  {
    name: "Rivals",
    Panel: lazy(() => import("./rivals").then((m) => ({ default: m.RivalsView }))),
    drawn: true,
    anew: "response",
  },
  {
    name: "Beside",
    Panel: lazy(() => import("./beside").then((m) => ({ default: m.BesideView }))),
    drawn: false,
    anew: "response",
  },
  { name: "Table", Panel: lazy(() => import("./table").then((m) => ({ default: m.TableView }))), drawn: false },
  {
    name: "Equation",
    Panel: lazy(() => import("./equation").then((m) => ({ default: m.EquationView }))),
    drawn: false,
  },
  { name: "Shares", Panel: lazy(() => import("./shares").then((m) => ({ default: m.SharesView }))), drawn: true },
];
