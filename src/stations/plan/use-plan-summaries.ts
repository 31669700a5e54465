"use client";
import { useEffect, useRef, useState } from "react";
import { activeFactors, type PlanRequest, type PlanSummariesStep, type Progress, type Study } from "@/core";
import { useQuestion } from "@/ui/compute/use-question";

const EMPTY: PlanSummariesStep = { summaries: [], refusals: [], done: 1, text: "" };
/** While a person types or steps a count, only what they end on is worked out. */
const PAUSE = 40;

/**
 * All plans in sight of what is asked, from a worker: quick families at once, searched ones as they are found. What was
 * there stays on screen until the new ones come.
 */
export function usePlanSummaries(
  study: Study,
  request: PlanRequest,
): {
  step: PlanSummariesStep;
  progress: Progress | undefined;
  running: boolean;
  stopped: boolean;
  trouble: string | undefined;
  stop(): void;
  again(): void;
} {
  const [found, setFound] = useState<PlanSummariesStep | undefined>(undefined);
  const job = useQuestion(
    "summaries",
    (p) => p.best !== undefined && setFound(p.best as PlanSummariesStep),
    (end) => setFound(end),
  );
  const { start } = job;
  const halted = useRef(false);
  const { factors, region, rivals, responses } = study;
  const ledger = `${study.waves.length}|${study.trials.length}`;
  const latest = useRef(study);
  latest.current = study;
  // Plans depend on the question and on how long the ledger is, not on results typed into it.
  // biome-ignore lint/correctness/useExhaustiveDependencies: as said above.
  useEffect(() => {
    if (activeFactors(latest.current).length < 2) return;
    halted.current = false;
    const wait = setTimeout(() => start(latest.current, { ask: request }), PAUSE);
    return () => clearTimeout(wait);
  }, [factors, region, rivals, responses, ledger, request, start]);
  return {
    step: activeFactors(study).length < 2 ? EMPTY : (found ?? EMPTY),
    progress: job.progress,
    running: job.running,
    stopped: halted.current,
    trouble: job.trouble,
    stop() {
      halted.current = true;
      job.stop();
    },
    again: () => start(latest.current, { ask: request }),
  };
}
