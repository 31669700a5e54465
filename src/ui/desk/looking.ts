import type { PlanRequest } from "@/core/plans";
import type { Study } from "@/core/study";
import { completeProbe } from "./probe";
import type { Slice } from "./store";

/** What a person looks at: nothing of it is saved. */
export interface Looking {
  /** The response that Model and the probe speak of. */
  response: string | undefined;
  /** A trial pointed at in any view lights in all. */
  lit: string | undefined;
  folded: { probe: boolean; readings: boolean };
  /** What Plan was asked, while the study is open; nothing until something was. */
  asked: Partial<PlanRequest>;
  ask(more: Partial<PlanRequest>): void;
  choose(response: string): void;
  light(trial: string | undefined): void;
  fold(panel: "probe" | "readings"): void;
  /** The view of a station has the page to itself. */
  wide: boolean;
  widen(): void;
  /**
   * Lets what is looked at follow a study that changed: the probe has a place for every factor, the response is
   * there.
   */
  follow(study: Study): void;
}

/** Everything stands below one another: the work comes before the probe. */
const oneColumn = (): boolean => typeof window !== "undefined" && window.innerWidth < 1024;

/** A desk on which readings would leave the work too little room; on a single column they have theirs. */
const narrowDesk = (): boolean =>
  typeof window !== "undefined" && window.innerWidth >= 1024 && window.innerWidth < 1200;

export const createLooking: (opened: Study) => Slice<Looking> = (opened) => (set, get) => ({
  response: opened.responses[0]?.id,
  lit: undefined,
  // Below 1200 px readings stand as their counts, until they are asked for.
  folded: { probe: oneColumn(), readings: narrowDesk() },
  wide: false,
  widen: () => set({ wide: !get().wide }),
  asked: {},
  ask: (more) => set({ asked: { ...get().asked, ...more } }),
  choose: (response) => set({ response }),
  light: (trial) => set({ lit: trial }),
  fold: (panel) => set({ folded: { ...get().folded, [panel]: !get().folded[panel] } }),
  follow: (study) => {
    const { response, probe } = get();
    set({
      probe: completeProbe(study, probe),
      response: study.responses.some((r) => r.id === response) ? response : study.responses[0]?.id,
    });
  },
});
