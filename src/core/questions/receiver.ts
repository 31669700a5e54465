import { type FoundFit, takeFoundFits } from "../model/fit";
import { keepParts } from "../study/keep-parts";
import { Memo } from "../study/memo";
import type { Study } from "../study/schema";

/** A study as a thread holds it, with where what is derived of it stands. */
export interface Received {
  study: Study;
  memo: Memo;
}

/**
 * Takes in states of a study, one after another, as copies sent to a thread: what rests on nothing that differs stands
 * from the state before, and what its sender found is not searched for again.
 */
export function receiver(): (study: Study, found?: readonly FoundFit[]) => Received {
  const memo = new Memo();
  let last: Study | undefined;
  return (sent, found = []) => {
    const study = last ? keepParts(last, sent) : sent;
    last = study;
    takeFoundFits(study, found, memo);
    return { study, memo };
  };
}
