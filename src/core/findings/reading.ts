import type { Message } from "../messages/message";
import type { ActionId, ReadingValues } from "../messages/readings";
import { messageText } from "../words/answers";

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
  | "setups"
  | "settings";

/** What a person may do about a reading, as a button. */
export interface ReadingAction {
  id: ActionId;
  go?: "question" | "plan" | "trials" | "model" | "setpoint" | "report" | "bench";
  response?: string;
  trial?: string;
}

/** What the evidence supports, with its figures; a language makes a plain sentence or two of it. */
export type Reading = {
  id: string;
  kind: "finding" | "caution" | "next step";
  evidence: Evidence;
  /** Larger comes first. */
  weight: number;
  action?: ReadingAction;
  /** The other answer, where the reading asks something. */
  other?: ReadingAction;
  /** What the evidence is about: a response, a trial, a term key. */
  about?: string;
} & Message<ReadingValues>;

/** Residual degrees of freedom below which a model's figures come with a caution. */
export const FEW_DF = 3;

/** Most consequential first. */
export const ranked = (readings: readonly Reading[]): Reading[] => [...readings].sort((a, b) => b.weight - a.weight);

/** A reading as an answer at the doors holds it. */
export const asAnswer = (reading: Pick<Reading, "kind" | "evidence"> & Message<ReadingValues>) => ({
  kind: reading.kind,
  text: messageText("readings", reading),
  evidence: reading.evidence,
});
