"use client";
import type { Fitted } from "@/core/questions";
import type { Study } from "@/core/study";

/** What every view of a model is given. */
export interface ViewProps {
  study: Study;
  fitted: Fitted;
}
