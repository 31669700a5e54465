import type { ComponentType } from "react";
import type { PlanDetail, PlanSummary } from "@/core/plans";
import type { Planning } from "../use-planning";

/** What a row shows of one picked plan. */
export interface CellProps {
  planning: Planning;
  plan: PlanSummary;
  /** Which of the plans picked, from 0. */
  at: number;
  /** What takes longer to work out; missing until it is there. */
  detail: PlanDetail | undefined;
}

/** A row that opens below the plans picked. */
export interface PlanRow {
  key: string;
  name: string;
  note(planning: Planning): string;
  Cell?: ComponentType<CellProps>;
  /** Below the cells, over all plans picked. */
  Across?: ComponentType<{ planning: Planning }>;
  /** Whether the row says anything of the plans picked; always, unless it tells. */
  speaks?(planning: Planning): boolean;
}
