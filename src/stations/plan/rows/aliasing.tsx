import { lazy } from "react";
import { figure } from "@/ui/parts/format";
import type { PlanRow } from "./row";

export const aliasing: PlanRow = {
  key: "alias",
  name: "Aliasing",
  note: () => "asked terms against those that may be there, in numbers",
  Cell: ({ detail }) => (
    <span className="small">
      {detail === undefined
        ? "…"
        : detail.aliasTrace === null
          ? "nothing besides may be there"
          : `alias trace ${figure(detail.aliasTrace, 3)}, largest ${figure(Math.max(0, ...detail.leaks.map((l) => Math.abs(l.share))))}`}
    </span>
  ),
  Across: lazy(() => import("./aliasing-figures").then((m) => ({ default: m.AliasingFigures }))),
};
