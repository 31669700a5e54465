import { useEffect, useState } from "react";
import type { PlanDetail, PlanRequest, PlanSummary } from "@/core/plans";
import type { StudyView } from "@/core/questions";
import { askSharedWorker } from "@/ui/compute/shared-worker";
import { say } from "@/ui/parts/say";

interface Shown {
  asked: Promise<PlanDetail | undefined>;
  detail: PlanDetail;
}

/**
 * The rows that open below the plans picked, by plan. A plan's are missing until they are worked out for what is asked
 * now: figures of an earlier question never stand under a later one.
 */
export function useDetails(
  view: StudyView,
  picked: readonly PlanSummary[],
  request: PlanRequest,
): ReadonlyMap<string, PlanDetail> {
  const [shown, setShown] = useState<ReadonlyMap<string, Shown>>(new Map());
  useEffect(() => {
    let over = false;
    const asked = new Map(
      picked.map((summary) => [
        summary.id,
        view.planDetail(summary, request, () => askSharedWorker("detail", view, { summary, ask: request })),
      ]),
    );
    setShown((before) => new Map([...before].filter(([id, s]) => asked.get(id) === s.asked)));
    for (const [id, one] of asked)
      one.then(
        (detail) => {
          if (!over && detail) setShown((before) => new Map(before).set(id, { asked: one, detail }));
        },
        () => {
          if (!over)
            say("What the plans tell row by row could not be worked out in this page; reload it and look again.");
        },
      );
    return () => {
      over = true;
    };
  }, [view, picked, request]);
  return new Map([...shown].map(([id, { detail }]) => [id, detail]));
}
