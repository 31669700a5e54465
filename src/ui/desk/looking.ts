import type { Study, Term } from "@/core";
import { completeProbe } from "./probe";
import type { Slice } from "./store";

/** One step of a person (or of reducing) through the models of a response. */
export interface ModelStep {
  label: string;
  terms: readonly Term[];
  /** What it was judged by, and what came of it. */
  figure: string;
  title: string;
}

/** What a person looks at: nothing of it is saved. */
export interface Looking {
  /** The response that Model and the probe speak of. */
  response: string | undefined;
  /** A trial pointed at in any view lights in all. */
  lit: string | undefined;
  folded: { probe: boolean; readings: boolean };
  /** The way each response's model came to be, while this desk is open. */
  modelSteps: Record<string, ModelStep[]>;
  choose(response: string): void;
  light(trial: string | undefined): void;
  fold(panel: "probe" | "readings"): void;
  /** Puts steps after the `at`th of a response's; what came after it is forgotten. */
  stepModel(response: string, index: number, steps: ModelStep[]): void;
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
  modelSteps: {},
  choose: (response) => set({ response }),
  light: (trial) => set({ lit: trial }),
  fold: (panel) => set({ folded: { ...get().folded, [panel]: !get().folded[panel] } }),
  stepModel: (response, index, steps) => {
    const before = get().modelSteps[response] ?? [];
    set({ modelSteps: { ...get().modelSteps, [response]: [...before.slice(0, index), ...steps] } });
  },
  follow: (study) => {
    const { response, probe } = get();
    set({
      probe: completeProbe(study, probe),
      response: study.responses.some((r) => r.id === response) ? response : study.responses[0]?.id,
    });
  },
});
