"use client";
import { useEffect, useMemo, useRef, useState } from "react";
import {
  families,
  madeLabel,
  type Plan,
  type PlanOptions,
  type PlanRequest,
  type PlanSummary,
  planSummaryId,
  summarisePlan,
} from "@/core/plans";
import type { Study } from "@/core/study";
import { useQuestion } from "@/ui/compute/use-question";
import { useDesk } from "@/ui/desk/store";

const MOST = 6;
/** While a person types or steps a count, only what they end on is worked out. */
const PAUSE = 60;

/** What was made of a plan of one's own, and for which question and counts. */
interface Made {
  factors: Study["factors"];
  region: Study["region"];
  trials: number;
  options: string;
  plan?: Plan;
  sentence?: string;
}

/** A plan's own options without the counts that the station's heading asks of all plans. */
function ownPart({
  centre: _c,
  replicates: _r,
  seed: _s,
  standardOrder: _o,
  setups: _u,
  setupSize: _z,
  eta: _e,
  ...rest
}: PlanOptions): PlanOptions {
  return rest;
}

/** The options of a plan of one's own as the heading stands now. */
function optionsNow(options: PlanOptions, request: PlanRequest): PlanOptions {
  const blocks = options.blocks ?? (request.blocks > 1 ? request.blocks : undefined);
  return {
    ...options,
    centre: request.centre,
    replicates: request.replicates,
    seed: request.seed,
    ...(blocks === undefined ? {} : { blocks }),
    ...(request.standardOrder ? { standardOrder: true } : {}),
    ...(request.setups === undefined ? {} : { setups: request.setups }),
    ...(request.setupSize === undefined ? {} : { setupSize: request.setupSize }),
    ...(request.eta === undefined ? {} : { eta: request.eta }),
  };
}

const idOf = (options: PlanOptions): string => `own ${planSummaryId(options)}`;

/**
 * Plans of one's own beside those in sight. They follow the heading as all others do: when centre points, replicates,
 * blocks, the seed or the question change they are worked out again, and until then they are not shown, so that what
 * is adopted is always what its heading says.
 */
export function useOwnPlans(
  study: Study,
  request: PlanRequest,
): {
  summaries: PlanSummary[];
  add(options: PlanOptions): string;
  running: boolean;
  text: string | undefined;
  trouble: string | undefined;
  stop(): void;
} {
  const [list, setList] = useState<PlanOptions[]>([]);
  const [made, setMade] = useState<ReadonlyMap<string, Made>>(new Map());
  const pending = useRef<{ id: string; made: Made } | undefined>(undefined);
  /** Why a plan just asked for cannot be made; one that was made before stays, to come back when it can be again. */
  const [refusal, setRefusal] = useState<string | undefined>(undefined);
  const settle = (more: Pick<Made, "plan" | "sentence">): void => {
    const { current } = pending;
    pending.current = undefined;
    if (!current) return;
    if (more.sentence && !made.has(current.id)) {
      setRefusal(more.sentence);
      setList((before) => before.filter((options) => idOf(options) !== current.id));
    } else setMade((before) => new Map(before).set(current.id, { ...current.made, ...more }));
  };
  const { start, running, progress, trouble, stop } = useQuestion("plan", undefined, (plan) => settle({ plan }));
  const refused = useRef(settle);
  refused.current = settle;
  useEffect(() => {
    if (trouble) refused.current({ sentence: trouble });
  }, [trouble]);
  const memo = useDesk((d) => d.memo);
  const latest = useRef(study);
  latest.current = study;
  const { factors, region } = study;
  const trials = study.trials.length;
  const wanted = useMemo(
    () =>
      list.map((asked) => {
        const options = optionsNow(asked, request);
        return { id: idOf(asked), options, key: JSON.stringify(options) };
      }),
    [list, request],
  );
  const fresh = (m: Made | undefined, key: string): m is Made =>
    m !== undefined &&
    m.options === key &&
    m.factors === factors &&
    m.region === region &&
    (m.trials === trials || !m.options.includes('"keep"'));
  const next = wanted.find((w) => !fresh(made.get(w.id), w.key));
  const nextKey = next && `${next.id} ${next.key}`;
  // biome-ignore lint/correctness/useExhaustiveDependencies: `next` is told apart by its key.
  useEffect(() => {
    if (!next) return;
    const wait = setTimeout(() => {
      pending.current = { id: next.id, made: { factors, region, trials, options: next.key } };
      start(latest.current, next.options);
    }, PAUSE);
    return () => clearTimeout(wait);
  }, [nextKey, factors, region, trials, start]);
  // Figures of a plan follow what is asked and the question, not results typed meanwhile.
  // biome-ignore lint/correctness/useExhaustiveDependencies: as said above.
  const summaries = useMemo(
    () =>
      wanted.flatMap(({ id, options, key }) => {
        const m = made.get(id);
        const family = families.find((f) => f.id === options.family);
        if (!fresh(m, key) || !m.plan || !family) return [];
        return [
          {
            ...summarisePlan(
              latest.current,
              m.plan,
              madeLabel(latest.current, family, options, m.plan),
              options,
              request,
              memo,
            ),
            id,
          },
        ];
      }),
    [wanted, made, factors, region, trials, request],
  );
  const lost = wanted.find((w) => fresh(made.get(w.id), w.key) && made.get(w.id)?.sentence);
  return {
    summaries,
    add(options) {
      const asked = ownPart(options);
      setRefusal(undefined);
      setList((before) => [...before.filter((o) => idOf(o) !== idOf(asked)), asked].slice(-MOST));
      return idOf(asked);
    },
    running: running || next !== undefined,
    text: progress?.text,
    trouble: refusal ?? (lost && made.get(lost.id)?.sentence),
    stop,
  };
}
