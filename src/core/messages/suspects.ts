/** What may be behind a confirmation that does not agree, by code. */
export interface SuspectValues {
  "wave-explains": { n: number };
  "one-side": { results: { name: string; off: number }[] };
  extrapolation: { responses: string[] };
  bend: { response: string; p: number };
  "lack-of-fit": { response: string; p: number };
  drift: { response: string; rising: boolean; first: number; last: number };
  unknown: { response: string };
}
