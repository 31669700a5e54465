import type { Study } from "@/core";
import { completeProbe } from "./probe";
import type { Slice } from "./store";

/** What a person looks at: nothing of it is saved. */
export interface Looking {
  /** The response that Model and the probe speak of. */
  response: string | undefined;
  /** A trial pointed at in any view lights in all. */
  lit: string | undefined;
  folded: { probe: boolean; readings: boolean };
  choose(response: string): void;
  light(trial: string | undefined): void;
  fold(panel: "probe" | "readings"): void;
  /**
   * Lets what is looked at follow a study that changed: the probe has a place for every factor, the response is
   * there.
   */
  follow(study: Study): void;
}

export const createLooking: (opened: Study) => Slice<Looking> = (opened) => (set, get) => ({
  response: opened.responses[0]?.id,
  lit: undefined,
  folded: { probe: false, readings: false },
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
