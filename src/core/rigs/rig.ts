import { type Random, seededRandom } from "../numerics/random";
import { code, isNumeric, settingsAsRun } from "../study/coding";
import { StudyError } from "../study/error";
import type { Factor, NumericFactor, Study, Trial } from "../study/schema";
import type { UnfitValues } from "../words/english/remarks";
import type { Said } from "../words/said";

/** A setting as a rig reads it. */
export interface RigInput {
  /** Coded on the rig's own range, whatever the study's. */
  x(id: string): number;
  /** Name of a category's level. */
  level(id: string): string;
  /** Position of the trial's wave in the study, from 0. */
  wave: number;
  random: Random;
}

/** A virtual process: known settings in, noisy results out. */
export interface Rig {
  id: string;
  name: string;
  /** The knobs it has, each with the range its own formulae are written for. */
  knobs: { id: string; name: string; range?: [number, number]; levels?: string[] }[];
  /** The gauges it has, with the decimals they show. */
  gauges: { id: string; name: string; decimals: number }[];
  /** A number, or several where a gauge is read at several places (repeats). */
  run(input: RigInput): Record<string, number | number[]>;
}

const simple = (s: string): string => s.toLowerCase().replace(/[^\p{L}\p{N}]+/gu, "");
const matches = (thing: { id: string; name: string }, other: { id: string; name: string }): boolean =>
  thing.id === other.id || simple(thing.name) === simple(other.name);

/** Why a rig cannot run a study's trials; undefined when it can. */
export function rigUnfit(rig: Rig, study: Study): Said<UnfitValues> | undefined {
  const missing = rig.knobs.filter((k) => !study.factors.some((f) => matches(f, k)));
  if (missing.length > 0) return { code: "rig-knobs", values: { rig: rig.name, missing: missing.map((k) => k.name) } };
  const extra = study.factors.find((f) => !rig.knobs.some((k) => matches(f, k)));
  if (extra) return { code: "rig-knob", values: { rig: rig.name, factor: extra.name } };
  if (!study.responses.some((r) => rig.gauges.some((g) => matches(r, g))))
    return { code: "rig-gauges", values: { rig: rig.name, gauges: rig.gauges.map((g) => g.name) } };
  return undefined;
}

/** Whole number from a text, so that each trial has noise of its own whatever order trials are run in. */
function hash(text: string): number {
  let h = 2166136261;
  for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 16777619) >>> 0;
  return h;
}

/**
 * Runs one trial on a rig: results by the study's response ids, rounded to what the gauges show.
 * @throws StudyError when the rig does not fit the study
 */
export function runTrial(rig: Rig, study: Study, trial: Trial, seed: number): Record<string, number | number[]> {
  const refusal = rigUnfit(rig, study);
  if (refusal) throw new StudyError("rig-unfit.study", { why: refusal }, ["rig"]);
  const settings = settingsAsRun(trial);
  const factorFor = (id: string): Factor => {
    const knob = rig.knobs.find((k) => k.id === id) as Rig["knobs"][number];
    return study.factors.find((f) => matches(f, knob)) as Factor;
  };
  const measured = rig.run({
    x(id) {
      const f = factorFor(id);
      if (!isNumeric(f)) throw new StudyError("rig-unfit.number", { rig: rig.name, factor: f.name }, ["factors", f.id]);
      const range = rig.knobs.find((k) => k.id === id)?.range;
      return code({ ...f, scale: "linear" } as NumericFactor, settings[f.id] as number, range);
    },
    level: (id) => String(settings[factorFor(id).id]),
    wave: study.waves.findIndex((w) => w.id === trial.wave),
    random: seededRandom(hash(`${seed}|${trial.order}|${trial.id}`)),
  });
  const out: Record<string, number | number[]> = {};
  for (const gauge of rig.gauges) {
    const response = study.responses.find((r) => matches(r, gauge));
    if (!response) continue;
    const shown = (v: number): number => Number(v.toFixed(response.decimals ?? gauge.decimals));
    const value = measured[gauge.id];
    out[response.id] = Array.isArray(value) ? value.map(shown) : shown(value);
  }
  return out;
}
