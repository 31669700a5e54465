import { centreSettings, type Settings, type Study } from "@/core/study";
import type { Slice } from "./store";

export interface Probing {
  /** The point that all views share; retired factors at their held value. */
  probe: Settings;
  /** Points kept to be compared. */
  pins: Settings[];
  setProbe(settings: Settings): void;
  pin(): void;
  unpin(index: number): void;
}

const MOST_PINS = 4;

/** Every factor of the study has a place in the probe, whatever was added or removed. */
export function completeProbe(study: Study, probe: Settings): Settings {
  const centre = centreSettings(study.factors);
  const out: Settings = {};
  for (const f of study.factors) {
    const v = probe[f.id];
    const good = f.kind === "categorical" ? typeof v === "string" && f.levels.includes(v) : typeof v === "number";
    out[f.id] = good ? v : centre[f.id];
  }
  return out;
}

/** The probe part of a desk: it starts at the setpoint, else at the centre. */
export const createProbing: (opened: Study) => Slice<Probing> = (opened) => (set, get) => ({
  probe: completeProbe(opened, { ...centreSettings(opened.factors), ...opened.setpoint?.settings }),
  pins: [],
  setProbe: (settings) => set({ probe: completeProbe(get().study, settings) }),
  pin: () => set({ pins: [...get().pins, get().probe].slice(-MOST_PINS) }),
  unpin: (index) => set({ pins: get().pins.filter((_, i) => i !== index) }),
});
