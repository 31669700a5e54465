import { useEffect, useState } from "react";
import type { PlanDetail, PlanRequest, PlanSummary, StudyView } from "@/core";
import { askBeside } from "@/ui/compute/beside";

/** The rows that open below the plans picked, by plan; a plan's are missing until they are worked out. */
export function useDetails(
  view: StudyView,
  picked: readonly PlanSummary[],
  request: PlanRequest,
): ReadonlyMap<string, PlanDetail> {
  const [shown, setShown] = useState<ReadonlyMap<string, PlanDetail>>(new Map());
  useEffect(() => {
    let over = false;
    const asked = picked.map(async (summary) => {
      const detail = await view.planDetail(summary, request, () =>
        askBeside("detail", view.study, { summary, ask: request }),
      );
      return [summary.id, detail] as const;
    });
    // Each plan's rows show as they come; a worker that fails leaves them out, and the next pick asks again.
    for (const one of asked)
      one
        .then(([id, detail]) => {
          if (!over && detail) setShown((before) => new Map(before).set(id, detail));
        })
        .catch(() => undefined);
    return () => {
      over = true;
    };
  }, [view, picked, request]);
  return shown;
}
