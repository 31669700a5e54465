"use client";
import { useEffect, useMemo, useRef, useState } from "react";
import type { PlanRequest, PlanSummariesStep } from "@/core/plans";
import type { Progress } from "@/core/questions";
import { activeFactors, type Study } from "@/core/study";
import { useQuestion } from "@/ui/compute/use-question";

const EMPTY: PlanSummariesStep = { summaries: [], refusals: [], toCome: Number.POSITIVE_INFINITY, done: 1, text: "" };
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
  /** What is asked now: another object when something else is. */
  about: object;
  progress: Progress | undefined;
  running: boolean;
  /** The plans in sight are of what is asked now; a moment ago something else may have been. */
  current: boolean;
  trouble: string | undefined;
  stop(): void;
  again(): void;
} {
  const [found, setFound] = useState<{ step: PlanSummariesStep; about: object } | undefined>(undefined);
  // What the worker is at.
  const begun = useRef<object>({});
  const job = useQuestion(
    "summaries",
    (p) => {
      const step = p.best as PlanSummariesStep | undefined;
      // Waves that may follow come together, so that none goes again under the pointer.
      if (step && step.toCome >= 0) setFound({ step, about: begun.current });
    },
    (step) => setFound({ step, about: begun.current }),
  );
  const { start } = job;
  const { factors, region, rivals, responses } = study;
  const ledger = `${study.waves.length}|${study.trials.length}`;
  const latest = useRef(study);
  latest.current = study;
  // Plans depend on the question and on how long the ledger is, not on results typed into it.
  // biome-ignore lint/correctness/useExhaustiveDependencies: as said above.
  const about = useMemo(() => ({ request }), [factors, region, responses, ledger, request]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: kept rivals ask nothing else, and are looked at, too.
  useEffect(() => {
    if (activeFactors(latest.current).length < 2) return;
    const wait = setTimeout(() => {
      begun.current = about;
      start(latest.current, { ask: about.request });
    }, PAUSE);
    return () => clearTimeout(wait);
  }, [about, rivals, start]);
  return {
    step: activeFactors(study).length < 2 ? EMPTY : (found?.step ?? EMPTY),
    about,
    current: found?.about === about,
    progress: job.progress,
    running: job.running,
    trouble: job.trouble,
    stop: job.stop,
    again: () => start(latest.current, { ask: request }),
  };
}
