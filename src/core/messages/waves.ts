/** Why a wave may follow, by code; terms as their letters. */
export interface WhyValues {
  "bend-or-shift": { response: string; p: number };
  chain: { response: string; terms: string[]; more: number };
  "which-square": { response: string; term: string; others: string[]; more: boolean };
  "centre-off": { response: string; p: number };
  uphill: { response: string };
  "few-df": { response: string; df: number };
  "not-run": object;
  "carry-asked": { factors: string[] };
  idle: { factors: string[] };
}

/** What waves that may follow are called, by code. */
export interface WaveNameValues {
  axial: object;
  corners: object;
  chains: object;
  more: object;
  "half-foldover": object;
  "missing-fraction": object;
  climb: { response: string };
  centre: object;
  confirm: object;
  foldover: object;
  carry: { letters: string[] };
  repeat: object;
  /** Of a kind that brings its own. */
  named: { name: string };
}

/** What could go wrong with a plan, by code. */
export interface RiskValues {
  "not-told-from": { term: string; from: string[] };
  "not-told-more": { n: number };
  "no-estimate": { n: number; such: string[] };
  "not-at-all": { terms: string[] };
  "with-blocks": { terms: string[]; more: number; asked: boolean };
  leaks: { term: string; percent: number; from: string };
  "no-error-df": object;
  "few-between": { df: number };
  "few-error-df": { df: number };
  "no-copies": object;
  inflated: { vif: number };
  "axial-moved": { factors: { name: string; wanted: number; stands: number }[] };
  "loses-trials": { n: number };
}
