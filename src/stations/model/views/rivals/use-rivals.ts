"use client";
import { useEffect, useMemo, useRef, useState } from "react";
import { type Fit, storedModel } from "@/core/model";
import { alphabetOf, type Edit, edit, inModelOrder, type Model, type Study, type Term, termKey } from "@/core/study";
import { useQuestion } from "@/ui/compute/use-question";
import { useDesk } from "@/ui/desk/store";
import { say } from "@/ui/parts/say";
import { setTerms } from "../../actions";
import type { ViewProps } from "../view";
import { type CriterionName, orderedBy, setKey } from "./criteria";

/** Most terms that subsets are searched of. */
const MOST_TERMS = 30;

/** Stores what a response's rivals are and how they are averaged. */
function setRivals(study: Study, response: string, fit: Fit, rivals: Term[][], average: Model["average"]): Edit[] {
  const stored = storedModel(study, response);
  const base: Model = stored ?? { response, ...fit.fitting, terms: fit.terms };
  const { rivals: _rivals, average: _average, ...rest } = base;
  const next: Model = {
    ...rest,
    ...(rivals.length > 0 ? { rivals } : {}),
    ...(average && rivals.length > 1 ? { average } : {}),
  };
  return [edit(study, ["models", response], next)];
}

/** The search for rivals of a response's model, those kept, and what may be done with one. */
export function useRivals({ study, fitted }: ViewProps) {
  const commit = useDesk((d) => d.commit);
  const { fit } = fitted;
  const { response } = fit;
  const about = study.responses.find((r) => r.id === response);
  const [by, setBy] = useState<CriterionName>("aicc");
  const search = useQuestion("subsets");
  const { start } = search;
  const stored = storedModel(study, response);
  const kept = useMemo(() => stored?.rivals ?? [], [stored]);
  // Candidates: what these trials can tell beside the rest, the largest first when there are more than can be searched.
  const candidates = useMemo(() => {
    const usable = fitted.ladder.rungs.filter((r) => !r.lost || r.inModel);
    const parents = new Set(usable.slice(0, MOST_TERMS).flatMap((r) => r.term.map((id) => termKey([id]))));
    const first = usable.filter((r) => r.inModel || (r.term.length === 1 && parents.has(r.key)));
    const rest = usable.filter((r) => !first.includes(r));
    return inModelOrder(
      alphabetOf(study),
      [...first, ...rest].slice(0, MOST_TERMS).map((r) => r.term),
    );
  }, [study, fitted]);
  // The best by predicted R² cost three times the search where terms are many: looked for when asked about.
  const predicted = by === "r2Predicted";
  const { transform, block, curvature, eta } = fit.fitting;
  // Asked anew when what the models are fitted to is another thing: results gathered, scale, waves, candidates.
  const wanted = setKey(candidates);
  const latest = useRef({ study, candidates });
  latest.current = { study, candidates };
  // biome-ignore lint/correctness/useExhaustiveDependencies: `fit.data` and the candidates' key say what it rests on.
  useEffect(() => {
    start(latest.current.study, {
      response,
      terms: latest.current.candidates,
      average: true,
      ...(predicted ? { predicted } : {}),
    });
  }, [fit.data, transform, block, curvature, eta, wanted, predicted, response, start]);
  const told = (refused: string | undefined): void => {
    if (refused) say(refused);
  };
  const change = (rivals: Term[][], average: Model["average"], what: string): void =>
    told(commit(setRivals(study, response, fit, rivals, average), what));
  const use = (terms: readonly Term[]): void =>
    told(commit(setTerms(study, response, terms), `took a rival model of ${about?.name}`));
  const keep = (terms: readonly Term[]): void => {
    if (kept.some((k) => setKey(k) === setKey(terms))) return;
    change([...kept, [...terms]], stored?.average, "kept a rival model");
  };
  const found = search.result?.models;
  const ordered = useMemo(() => orderedBy(by, found ?? []), [by, found]);
  return {
    study,
    fit,
    about,
    search,
    candidates,
    setBy,
    ordered,
    stored,
    kept,
    isKept: (terms: readonly Term[]): boolean => kept.some((k) => setKey(k) === setKey(terms)),
    /** Whether these are the terms of the present model. */
    isHere: (terms: readonly Term[]): boolean => setKey(terms) === setKey(fit.terms),
    change,
    use,
    keep,
  };
}

export type Rivals = ReturnType<typeof useRivals>;
