import { useCallback, useRef } from "react";

/** A function that stays the same while what it does is always the latest, so that what holds it is not drawn anew. */
export function useStable<A extends unknown[], R>(work: (...given: A) => R): (...given: A) => R {
  const latest = useRef(work);
  latest.current = work;
  return useCallback((...given: A) => latest.current(...given), []);
}
