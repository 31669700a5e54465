import type { CountedResult } from "../kinds/result";
import type { Message } from "../messages/message";
import type { UnfitValues } from "../messages/remarks";
import { type Random, seededRandom } from "../numerics/random";
import { settingsAsRun } from "../study/coding";
import { StudyError } from "../study/error";
import type { Setting, Settings, Study, Trial } from "../study/schema";

/** A setting as a rig reads it. */
export interface RigInput {
  /** Coded on the rig's own range, whatever the study's. */
  x(id: string): number;
  /** Name of a category's level. */
  level(id: string): string;
  /** Position of the trial's wave in the study, from 0. */
  wave: number;
  random: Random;
  /** The same for all trials of one set-up of the hard factors. */
  setup: Random;
}

/** What a gauge gives. */
export type Measurement = number | number[] | CountedResult;

/** A virtual process: known settings in, noisy results out. */
export interface Rig {
  id: string;
  name: string;
  /** The knobs it has, each with the range its own formulae are written for. */
  knobs: { id: string; name: string; range?: [number, number]; levels?: string[] }[];
  /** The gauges it has, with the decimals they show. */
  gauges: { id: string; name: string; decimals: number }[];
  /** A number, several where a gauge is read at several places or units, or events of so many pieces. */
  run(input: RigInput): Record<string, Measurement>;
}

const simple = (s: string): string => s.toLowerCase().replace(/[^\p{L}\p{N}]+/gu, "");
const matches = (thing: { id: string; name: string }, other: { id: string; name: string }): boolean =>
  thing.id === other.id || simple(thing.name) === simple(other.name);

/** Why a rig cannot run a study's trials; undefined when it can. */
export function rigUnfit(rig: Rig, study: Study): Message<UnfitValues> | undefined {
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

/** What a rig is run at. */
export interface RigRun {
  /** What the settings stand for, matched to its knobs by id or name. */
  named: readonly { id: string; name: string }[];
  settings: Settings;
  /** Position of the trial's wave in the study, from 0. */
  wave: number;
  /** Whatever makes this trial's noise its own. */
  seed: string;
  /** What makes the noise of its set-up; a set-up of its own unless said. */
  setup?: string;
}

/**
 * What a rig measures, by its gauges, as many decimals as it works out.
 * @throws StudyError `rig-unfit` where a knob has no setting of its kind
 */
export function measure(rig: Rig, { named, settings, wave, seed, setup }: RigRun): Record<string, Measurement> {
  const knobOf = (id: string): Rig["knobs"][number] => rig.knobs.find((k) => k.id === id) as Rig["knobs"][number];
  const settingOf = (id: string): { name: string; value: Setting | undefined } => {
    const factor = named.find((f) => matches(f, knobOf(id)));
    return { name: factor?.name ?? knobOf(id).name, value: factor && settings[factor.id] };
  };
  return rig.run({
    x(id) {
      const { name, value } = settingOf(id);
      if (typeof value !== "number")
        throw new StudyError("rig-unfit.number", { rig: rig.name, factor: name }, ["factors", id]);
      const [low, high] = knobOf(id).range ?? [-1, 1];
      return (value - (low + high) / 2) / ((high - low) / 2);
    },
    level: (id) => String(settingOf(id).value),
    wave,
    random: seededRandom(hash(seed)),
    setup: seededRandom(hash(`set-up ${setup ?? seed}`)),
  });
}

/** A gauge's reading, or readings, as it shows them. */
export function shown(value: Measurement, decimals: number): Measurement {
  if (typeof value === "object" && !Array.isArray(value)) return value;
  const one = (v: number): number => Number(v.toFixed(decimals));
  return Array.isArray(value) ? value.map(one) : one(value);
}

/**
 * Runs one trial on a rig: results by the study's response ids, rounded to what the gauges show.
 * @throws StudyError when the rig does not fit the study
 */
export function runTrial(rig: Rig, study: Study, trial: Trial, seed: number): Record<string, Measurement> {
  const refusal = rigUnfit(rig, study);
  if (refusal) throw new StudyError("rig-unfit.study", { why: refusal }, ["rig"]);
  const measured = measure(rig, {
    named: study.factors,
    settings: settingsAsRun(trial),
    wave: study.waves.findIndex((w) => w.id === trial.wave),
    seed: `${seed}|${trial.order}|${trial.id}`,
    ...(trial.setup === undefined ? {} : { setup: `${seed}|${trial.wave}|${trial.setup}` }),
  });
  const out: Record<string, Measurement> = {};
  for (const gauge of rig.gauges) {
    const response = study.responses.find((r) => matches(r, gauge));
    if (response) out[response.id] = shown(measured[gauge.id], response.decimals ?? gauge.decimals);
  }
  return out;
}
