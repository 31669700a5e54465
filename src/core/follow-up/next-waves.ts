import { Memo } from "../study/memo";
import { isStanding } from "../study/roles";
import type { Study } from "../study/schema";
import { evidenceOf } from "./evidence";
import type { FollowOffer } from "./kind";
import { followUps } from "./kinds";
import { parts } from "./parting";

/**
 * The waves that may follow a study's trials, those it needs now first, each with the reason: an active chain to part,
 * a bend that nothing carries, a best that lies outside, no pure error, a setpoint not confirmed. The person decides.
 *
 * @param toCarry factors that a person wants carried on, in place of those that look active
 */
export function nextWaves(study: Study, toCarry?: readonly string[], memo = new Memo()): FollowOffer[] {
  if (!study.trials.some(isStanding)) return [];
  const evidence = evidenceOf(study, toCarry, (options, terms) => parts(study, options, terms), memo);
  const offers = followUps.flatMap((kind) => kind.offered(evidence)).sort((a, b) => a.place - b.place);
  return offers
    .filter((o, i) => !o.also || !offers.slice(0, i).some((earlier) => earlier.options.kind === o.options.kind))
    .map(({ place: _place, also: _also, ...offer }) => offer);
}
