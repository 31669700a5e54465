import { useRouter } from "next/navigation";
import { useDeferredValue, useMemo, useState } from "react";
import {
  adoptPlan,
  countedPlanOf,
  defaultPicks,
  type FirstPick,
  firstPick,
  inPlace,
  type PlanDetail,
  type PlanOptions,
  type PlanRequest,
  type PlanSummary,
  requestedTerms,
  usualRequest,
} from "@/core/plans";
import {
  additions,
  edit,
  expectedNoise,
  hardestResponse,
  judgedResponses,
  type Response,
  type Study,
  valueUnit,
} from "@/core/study";
import { useDesk } from "@/ui/desk/store";
import { useStudyView } from "@/ui/desk/view";
import { say } from "@/ui/parts/say";
import { useDetails } from "./use-details";
import { useOwnPlans } from "./use-own-plans";
import { usePlanSummaries } from "./use-plan-summaries";

/** All that the parts of Plan share: what is asked, what is in sight, what is picked, and what may be done with it. */
export interface Planning {
  study: Study;
  /** As it is asked now, and as the plans on screen answer it. */
  request: PlanRequest;
  deferred: PlanRequest;
  ask(more: Partial<PlanRequest>): void;
  /** The response that plans are judged by, with its noise and unit, σ where none is stated. */
  response: Response | undefined;
  judged: readonly Response[];
  judgeBy(response: string): void;
  noise: number;
  unit: string;
  search: ReturnType<typeof usePlanSummaries>;
  own: ReturnType<typeof useOwnPlans>;
  summaries: readonly PlanSummary[];
  follows: readonly PlanSummary[];
  picked: readonly PlanSummary[];
  /** The plan to go by before a person picks any; what is shown first stays when a search finds a better one. */
  first: FirstPick | undefined;
  /** What a search found since that does better. */
  later: PlanSummary | undefined;
  details: readonly (PlanDetail | undefined)[];
  pick(plan: string): void;
  addOwn(options: PlanOptions): void;
  adopt(s: PlanSummary): void;
  keep(s: PlanSummary, name: string): void;
  forget(s: PlanSummary): void;
}

/** Most plans that stand side by side. */
const MOST_PICKED = 3;

export const letterOf = (i: number): string => String.fromCharCode(97 + i);

/**
 * The plans marked before a person picks any, once there is enough to choose from: then they stand, and a better one
 * that a search finds is offered beside them.
 */
function useFirst(
  search: Planning["search"],
  wanted: number | undefined,
): Pick<Planning, "first" | "later"> & { ids: readonly string[] } {
  const { step, about, current, running } = search;
  const found = useMemo(() => firstPick(step.summaries, wanted), [step.summaries, wanted]);
  const [shown, show] = useState<{
    about: object;
    wanted: number | undefined;
    first: FirstPick | undefined;
    ids: string[];
  }>();
  const stands = shown?.about === about && shown.wanted === wanted;
  // Nothing that is still to come can then be cheaper.
  const enough = found?.sound === true && found.by !== "sharpest" && found.cost < step.toCome;
  const ended = current && !running;
  if (!stands && (ended || (current && (enough || step.summaries.some((s) => s.follow?.why)))))
    show({ about, wanted, first: found, ids: defaultPicks(step.summaries, found) });
  const marked = shown?.first !== undefined && shown.ids.includes(shown.first.plan);
  const later = stands && ended && found && marked && found.plan !== shown.first?.plan ? found.plan : undefined;
  return {
    first: shown?.first,
    ids: shown?.ids ?? [],
    later: step.summaries.find((s) => s.id === later),
  };
}

export function usePlanning(): Planning {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const asked = useDesk((d) => d.asked);
  const ask = useDesk((d) => d.ask);
  const id = useDesk((d) => d.id);
  const router = useRouter();
  const ran = study.trials.length > 0;
  // biome-ignore lint/correctness/useExhaustiveDependencies: of the study only what a request rests on.
  const usualOnes = useMemo(
    () => ({ ...usualRequest(study), ...asked }),
    [asked, ran, study.confidence, study.factors],
  );
  const [responseId, judgeBy] = useState<string | undefined>(undefined);
  const [chosen, setChosen] = useState<string[] | undefined>(undefined);
  const judged = judgedResponses(study);
  const response = judged.find((r) => r.id === responseId) ?? hardestResponse(study);
  // A share or a count is judged by what would be counted of it.
  const request = useMemo(() => {
    const counted = response && countedPlanOf(response);
    return counted ? { ...usualOnes, counted } : usualOnes;
  }, [usualOnes, response]);
  const deferred = useDeferredValue(request);
  const noise = (response && expectedNoise(response)) ?? 1;
  const wanted = response?.smallest === undefined ? undefined : response.smallest / noise;
  const search = usePlanSummaries(study, deferred);
  const own = useOwnPlans(study, deferred);
  const summaries = useMemo(() => [...search.step.summaries, ...own.summaries], [search.step.summaries, own.summaries]);
  const follows = useMemo(() => inPlace(summaries), [summaries]);
  const { first, ids: usual, later } = useFirst(search, wanted);
  const pickedIds = (chosen ?? usual).filter((p) => summaries.some((s) => s.id === p));
  const pickedKey = pickedIds.join("|");
  // The ids say which; a new list of the same plans is no news.
  // biome-ignore lint/correctness/useExhaustiveDependencies: as said above.
  const picked = useMemo(
    () => pickedIds.map((p) => summaries.find((s) => s.id === p) as PlanSummary),
    [pickedKey, summaries],
  );
  // What opens below takes longer than a frame for large plans: the pick itself is shown first.
  const late = useDeferredValue(picked);
  const known = useDetails(useStudyView(), late, deferred);
  const latest = (more: string): string[] => [...pickedIds.slice(1 - MOST_PICKED), more];
  return {
    study,
    request,
    deferred,
    ask,
    response,
    judged,
    judgeBy,
    noise,
    unit: response ? valueUnit(response) : "σ",
    search,
    own,
    summaries,
    follows,
    picked,
    first,
    later: later && !pickedIds.includes(later.id) ? later : undefined,
    details: picked.map((s) => known.get(s.id)),
    pick: (plan) => setChosen(pickedIds.includes(plan) ? pickedIds.filter((p) => p !== plan) : latest(plan)),
    addOwn: (options) => setChosen(latest(own.add(options))),
    adopt(s) {
      const purpose = s.follow?.purpose ?? (study.waves.length === 0 ? "screen" : "next wave");
      // What was asked and can be told is what the wave is for; of terms picked one by one, all that were picked.
      const wanted =
        s.follow || (typeof request.terms === "string" && !s.tellsAll) ? [] : requestedTerms(study, request);
      const refused = commit(additions(study, adoptPlan(study, s.plan, purpose, wanted)), `adopted ${s.label}`);
      if (refused) say(refused);
      else router.push(`/studies/${id}/trials`);
    },
    keep(s, name) {
      const text = name.trim();
      if (text === "") return;
      const before = study.rivals.find((r) => s.id === `rival ${r.id}`);
      const taken = new Set(study.rivals.map((r) => r.id));
      let n = study.rivals.length + 1;
      while (taken.has(`plan${n}`)) n++;
      const recipe = JSON.parse(JSON.stringify(s.plan.recipe));
      const change = before
        ? edit(study, ["rivals", before.id, "name"], text)
        : edit(study, ["rivals", `plan${n}`], { id: `plan${n}`, name: text, recipe });
      const refused = commit([change], `kept the plan ${text}`);
      if (refused) say(refused);
      else if (!before) setChosen(pickedIds.map((p) => (p === s.id ? `rival plan${n}` : p)));
    },
    forget(s) {
      const before = study.rivals.find((r) => s.id === `rival ${r.id}`);
      if (before) commit([edit(study, ["rivals", before.id], null)], `let go of the plan ${before.name}`);
    },
  };
}
