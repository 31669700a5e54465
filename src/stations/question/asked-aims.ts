import { useState } from "react";
import { goalExample } from "@/core/formats";
import type { Goal, Response } from "@/core/study";
import { useDesk } from "@/ui/desk/store";
import { draftKey, readDraft, writeDraft } from "@/ui/parts/draft";

/** What a response still lacks for its goal: an aim that was chosen, limits that were typed. */
export interface LeftOpen {
  id: string;
  aim?: Goal["aim"];
  limits?: string;
}

const aimKey = (study: string, response: string): string => draftKey(study, `${response}:aim`);
/** Where the limits typed for a response are kept while they cannot be taken: its cell finds them there. */
export const limitsKey = (study: string, response: string): string => draftKey(study, `${response}:goal`);

/** What is asked for where an aim has no limits yet. */
export const askedSentence = (r: Response, aim: Goal["aim"] | undefined): string | undefined =>
  aim === undefined || aim === "watch"
    ? undefined
    : `${r.name}: type the limits to ${aim === "raise" ? "raise it between" : aim === "lower" ? "lower it between" : "keep it in"}, like ${goalExample(aim, r)}; until then it is watched.`;

/** Aims chosen whose limits are still to be typed, by response; kept over a reload, as drafts are. */
export function useAskedAims(): {
  asked: Readonly<Record<string, Goal["aim"]>>;
  ask(response: string, aim: Goal["aim"] | undefined): void;
  /** Keeps what pasted rows leave open. */
  leave(left: readonly LeftOpen[]): void;
} {
  const study = useDesk((d) => d.study);
  const id = useDesk((d) => d.id);
  const [asked, setAsked] = useState<Readonly<Record<string, Goal["aim"]>>>(() =>
    Object.fromEntries(
      study.responses.flatMap((r): [string, Goal["aim"]][] => {
        const aim = r.goal.aim === "watch" ? readDraft(aimKey(id, r.id)) : undefined;
        return aim === undefined ? [] : [[r.id, aim as Goal["aim"]]];
      }),
    ),
  );
  const ask = (response: string, aim: Goal["aim"] | undefined): void => {
    writeDraft(aimKey(id, response), aim);
    setAsked(({ [response]: _before, ...rest }) => (aim === undefined ? rest : { ...rest, [response]: aim }));
  };
  return {
    asked,
    ask,
    leave(left) {
      for (const { id: response, aim, limits } of left) {
        if (limits !== undefined) writeDraft(limitsKey(id, response), limits);
        if (aim !== undefined) ask(response, aim);
      }
    },
  };
}
