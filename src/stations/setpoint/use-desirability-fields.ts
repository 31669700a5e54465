import { useMemo } from "react";
import { limitsOf, type SetpointProblem } from "@/core/setpoint";
import { allowed, type Settings, type Study } from "@/core/study";
import { limitLines } from "@/ui/charts/limit-lines";
import type { LimitLine } from "@/ui/charts/surface-map";
import { type OverPlane, pointwise } from "@/ui/charts/surface-map";

/** What the maps of Setpoint are drawn from. */
export interface Ground {
  /** Overall desirability. */
  overall: OverPlane;
  /** How far inside all limits settings lie, negative outside. */
  meets(settings: Settings): number;
  /** The same over any plane. */
  common: OverPlane;
  /** The limits one by one. */
  limits: readonly LimitLine[];
  /** Positive where the region lets trials be run; undefined where it only has ranges. */
  inRegion: OverPlane | undefined;
}

export function useDesirabilityFields(study: Study, problem: SetpointProblem): Ground {
  const overall = useMemo(() => pointwise((s) => problem.overall(s)), [problem]);
  const meets = useMemo(() => {
    return (s: Settings): number => {
      let least = Number.POSITIVE_INFINITY;
      for (const r of problem.responses) {
        const v = problem.predictors.get(r.id)?.value(s) ?? 0;
        const l = limitsOf(r.goal);
        const width = "low" in r.goal ? r.goal.high - r.goal.low : 1;
        least = Math.min(
          least,
          Number.isFinite(l.low) ? (v - l.low) / width : Number.POSITIVE_INFINITY,
          Number.isFinite(l.high) ? (l.high - v) / width : Number.POSITIVE_INFINITY,
        );
      }
      return least;
    };
  }, [problem]);
  const limits = useMemo(
    () =>
      problem.responses.flatMap((r) => {
        const read = problem.predictors.get(r.id);
        return read ? limitLines(r, read) : [];
      }),
    [problem],
  );
  const common = useMemo(() => pointwise(meets), [meets]);
  const inRegion = useMemo(
    () =>
      study.region.limits.length + study.region.forbidden.length > 0
        ? pointwise((s) => (allowed(study, s) ? 1 : -1))
        : undefined,
    [study],
  );
  return { overall, meets, common, limits, inRegion };
}
