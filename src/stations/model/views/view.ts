"use client";
import type { Fitted, Study } from "@/core";

/** What every view of a model is given. */
export interface ViewProps {
  study: Study;
  fitted: Fitted;
}
