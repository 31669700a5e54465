import type { Station } from "@/core/findings";

/** What stations are called. */
export const STATION_NAMES: Readonly<Record<Station, string>> = {
  question: "Question",
  plan: "Plan",
  trials: "Trials",
  model: "Model",
  setpoint: "Setpoint",
  report: "Report",
};
