"use client";
import type { Study } from "@/core";
import type { Fitted } from "@/ui/desk/derive";

/** What every view of a model is given. */
export interface ViewProps {
  study: Study;
  fitted: Fitted;
}
