/** What is wrong with something that should be counted. */
export interface CountedFault {
  why:
    | "unreadable"
    | "either"
    | "whole"
    | "negative"
    | "more"
    | "no-of"
    | "share-only"
    | "of"
    | "several"
    | "fraction"
    | "percent-of-count"
    | "measured";
  share: boolean;
  text: string;
  events: number | null;
  of: number | null;
}
