"use client";
import { useMemo } from "react";
import { StudyView } from "@/core/questions";
import type { Study } from "@/core/study";
import { useDesk } from "./store";

/**
 * A study with what is derived from it; figures that rest on nothing edited are kept from before.
 *
 * @param given another state than the one that stands, such as one a frame behind
 */
export function useStudyView(given?: Study): StudyView {
  const present = useDesk((d) => d.study);
  const memo = useDesk((d) => d.memo);
  const study = given ?? present;
  return useMemo(() => new StudyView(study, memo), [study, memo]);
}
