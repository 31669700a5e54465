import type { ComponentType } from "react";
import type { Confirmation } from "@/core/setpoint";
import type { Study } from "@/core/study";

/** What every section of the report is given. */
export interface SectionProps {
  study: Study;
  /** The study's confirmation; null where there is none, undefined while that is not known yet. */
  tested: Confirmation | null | undefined;
}

/** A part of the report that can be left out. */
export interface ReportSection {
  name: string;
  Body: ComponentType<SectionProps>;
  /** Rests on models: drawn a moment after the page has opened. */
  late: boolean;
  /** Printed only where it is asked for. */
  asked?: true;
}
