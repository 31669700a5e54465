import { correlations, termMap } from "../appraisal/aliasing";
import { reaches } from "../appraisal/power";
import { type Points, pointModel, pointsOf } from "../appraisal/terms-info";
import { regionSample, varianceReader } from "../appraisal/variance";
import { type FollowUp, followUpNamed } from "../follow-up/follow";
import type { FollowOffer } from "../follow-up/kind";
import type { FollowOptions } from "../follow-up/options";
import { Memo } from "../study/memo";
import { hardFactors } from "../study/roles";
import type { Study, Term } from "../study/schema";
import { encoder } from "../terms/model-matrix";
import { termKey } from "../terms/term";
import { messageText } from "../words/answers";
import type { Estimability } from "./follow-up-summary";
import {
  effectsSeen,
  judgedPoints,
  type PlanRequest,
  type PlanSummary,
  requestedTerms,
  summarisePlan,
} from "./plan-summary";

/** Summaries of waves that may follow, as they are on offer. */
export const inPlace = <S extends Pick<PlanSummary, "follow">>(summaries: readonly S[]): S[] =>
  summaries.filter((s) => s.follow).toSorted((a, b) => (a.follow?.place ?? 0) - (b.follow?.place ?? 0));

/** What a set of trials tells of what is asked. */
function estimabilityOf(
  study: Study,
  points: Points,
  request: PlanRequest,
  memo: Memo,
): { figures: Estimability; groups: Set<string> } {
  const terms = requestedTerms(study, request);
  const model = pointModel(study, points, terms);
  const kept = new Set(model.kept.map((c) => c.key));
  const map = termMap(correlations(study, points, terms));
  const together = new Set(
    map.flatMap((m) => (m.state === "lost" ? m.with.map((t) => [termKey(m.term), termKey(t)].sort().join("|")) : [])),
  );
  const estimable = terms.filter((t) => kept.has(termKey(t)));
  const reduced = pointModel(study, points, estimable);
  const d = varianceReader(encoder(study, estimable), reduced.kept, reduced.inverse);
  const sample = regionSample(study, 600);
  return {
    groups: together,
    figures: {
      estimable: estimable.length,
      clear: map.filter((m) => m.state === "clear").length,
      ratio: effectsSeen(study, points, model, reaches(study, model, terms), request, memo)?.ratio ?? null,
      meanError:
        sample.length > 0 && estimable.length > 0
          ? Math.sqrt(sample.reduce((t, s) => t + d(s), 0) / sample.length)
          : null,
    },
  };
}

/** Set-ups as they are asked for on Plan, of kinds that leave them open. */
function setupsAsked(
  study: Study,
  kind: string,
  { setups, setupSize, eta }: PlanRequest,
): Pick<FollowOptions, "setups" | "setupSize" | "eta"> {
  if (hardFactors(study).length === 0 || followUpNamed(kind).ownSetups) return {};
  return {
    ...(setups === undefined ? {} : { setups }),
    ...(setupSize === undefined ? {} : { setupSize }),
    ...(eta === undefined ? {} : { eta }),
  };
}

/** All that a next wave on offer is planned by. */
export const offeredOptions = (study: Study, { options }: FollowOffer, request: PlanRequest): FollowOptions => ({
  seed: request.seed,
  ...setupsAsked(study, options.kind, request),
  ...options,
});

/** That a wave carries on some factors alone, where it does. */
export const narrowing = ({ options }: FollowOffer): { narrows?: true } =>
  followUpNamed(options.kind).narrows ? { narrows: true } : {};

/** Looks at a next wave beside what was run: its own summary and what it changes. */
export function summariseFollowUp(
  study: Study,
  offer: FollowOffer,
  { plan, purpose, cautions }: FollowUp,
  request: PlanRequest,
  { memo = new Memo(), place = 0 }: { memo?: Memo; place?: number } = {},
): PlanSummary {
  // A wave of a few factors is not asked about the rest.
  const carried = narrowing(offer).narrows ? (plan.recipe.factors ?? []) : undefined;
  const about: PlanRequest = carried
    ? { ...request, terms: requestedTerms(study, request).filter((t) => t.every((id) => carried.includes(id))) }
    : request;
  const summary = summarisePlan(
    study,
    plan,
    messageText("waveNames", offer.name),
    { family: offer.options.kind, trials: plan.trials.length },
    { ...about, together: true },
    memo,
  );
  const before = estimabilityOf(study, pointsOf(study), about, memo);
  const after = estimabilityOf(study, judgedPoints(study, plan, true), about, memo);
  const terms = new Map(requestedTerms(study, about).map((t) => [termKey(t), t]));
  return {
    ...summary,
    id: `follow ${JSON.stringify(offer.options)}`,
    follow: {
      kind: offer.options.kind,
      ...narrowing(offer),
      name: offer.name.code,
      place,
      options: { ...setupsAsked(study, offer.options.kind, request), ...offer.options },
      purpose,
      cautions: cautions.map((c) => messageText("remarks", c)),
      ...(offer.why === undefined ? {} : { why: offer.why }),
      asked: terms.size,
      before: before.figures,
      after: after.figures,
      parted: [...before.groups]
        .filter((g) => !after.groups.has(g))
        .map((g) =>
          g
            .split("|")
            .map((k) => terms.get(k))
            .filter((t): t is Term => t !== undefined),
        )
        .filter((pair) => pair.length === 2),
    },
  };
}
