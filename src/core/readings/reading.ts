/** Where a reading's evidence stands: a view of a station. */
export type Evidence =
  | "region"
  | "responses"
  | "factors"
  | "chains"
  | "power"
  | "plans"
  | "ledger"
  | "strip"
  | "ladder"
  | "pairs"
  | "half-normal"
  | "checks"
  | "table"
  | "equation"
  | "map"
  | "candidates"
  | "wishes"
  | "df"
  | "settings";

/** What a person may do about a reading, as a button. */
export interface ReadingAction {
  label: string;
  go?: "question" | "plan" | "trials" | "model" | "setpoint" | "report";
  response?: string;
  trial?: string;
}

/** One plain sentence or two that the evidence supports, with its figures. */
export interface Reading {
  id: string;
  kind: "finding" | "caution" | "next step";
  text: string;
  evidence: Evidence;
  /** Larger comes first. */
  weight: number;
  action?: ReadingAction;
  /** What the evidence is about: a response, a trial, a term key. */
  about?: string;
}

/** Residual degrees of freedom below which a model's figures come with a caution. */
export const FEW_DF = 3;

/** Most consequential first. */
export const ranked = (readings: readonly Reading[]): Reading[] => [...readings].sort((a, b) => b.weight - a.weight);
