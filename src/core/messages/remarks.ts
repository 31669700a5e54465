import type { Message } from "./message";
import type { PlaceValues } from "./places";
/** A family as it is spoken of. */
export interface Family {
  /** What one of its plans is called as the subject of a sentence. */
  subject: string;
}

/** Why a family or a rig cannot serve a study, by code. */
export interface UnfitValues {
  factors: { family: Family; fewest: number; most: number; have: number };
  "numeric-factors": { family: Family; fewest: number; most: number; numeric: number; categories: number };
  "two-levels": { family: Family; factor: string; levels: number };
  middle: { family: Family; factor: string };
  middles: { family: Family; least: number; have: number };
  "over-budget": { family: Family; least: number; budget: number };
  "too-large": { family: Family; trials: number };
  "no-array": { levels: number[]; factors: number; most: number };
  "rig-knobs": { rig: string; missing: string[] };
  "rig-knob": { rig: string; factor: string };
  "rig-gauges": { rig: string; gauges: string[] };
}

/** What is said beside figures: why one is absent, why something ends, what a wave brings with it; by code. */
export interface RemarkValues {
  "path-third-order": object;
  "path-level": object;
  "path-factor": { factor: string };
  "path-range": { factors: string[] };
  "path-region": object;
  "path-turns": object;
  "path-target": object;
  "path-goes-on": { points: number };
  "third-order": object;
  "no-bend": object;
  "rising-ridge": object;
  "no-standard-errors": object;
  "no-f-free": { df: number };
  "no-p-values": object;
  "no-predicted-r2": { trial: string };
  "no-criteria": object;
  "no-aicc": { coefficients: number; results: number };
  "no-importance": { scale: string };
  "no-margins": object;
  "contrasts-wide": { factor: string };
  "contrasts-none-varies": object;
  "contrasts-no-corners": object;
  "contrasts-unbalanced": { term: string };
  "contrasts-not-orthogonal": { term: string; to: string };
  "contrasts-sizes": { share: boolean };
  "contrasts-units": object;
  "contrasts-few": object;
  "reduce-exact": object;
  "reduce-few-df": { by: string };
  "reduce-p-above": { alpha: number };
  "reduce-lower-without": { by: string };
  "reduce-p-below": { alpha: number };
  "reduce-lower-with": { by: string };
  "went-forward": { df: number };
  "equation-many": { combinations: number };
  "equation-unseen": { unseen: { factor: string; levels: string[] }[] };
  "region-excludes": { runs: number };
  "centre-beside": object;
  "centre-alone": object;
  "axial-faces": { star: number };
  "axial-star": { at: number; factors: number };
  "axial-no-centre": object;
  "fold-block": { words: string[]; more: boolean };
  "fold-centre": object;
  "fraction-block": object;
  "in-turn": object;
  "place-outside": { why: Message<PlaceValues> };
  reused: {
    served: number;
    points: number;
    /** Idle factors that stood elsewhere in the trials that serve again. */
    elsewhere: string[];
    /** Those of them that are retired: no model can carry them. */
    retired: string[];
    /** How far they may move responses. */
    biases: { response: string; size: number; unit: string | undefined }[];
  };
}
