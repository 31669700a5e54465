import { activeFactors } from "../study/roles";
import type { Study } from "../study/schema";

/** The stations in the order of the work. */
export const STATIONS = ["question", "plan", "trials", "model", "setpoint", "report"] as const;
/** One of them. */
export type Station = (typeof STATIONS)[number];

/** A station's cairn: how many of its three stones stand, whether one is loose, and its fact. */
export interface StageMarker {
  station: Station;
  fact: string;
  stones: 0 | 1 | 2 | 3;
  /** Something upstream changed after this part was done. */
  loose: boolean;
}

const count = (n: number, one: string, many = `${one}s`): string => `${n} ${n === 1 ? one : many}`;
const third = (part: number, whole: number): 0 | 1 | 2 | 3 =>
  whole === 0 ? 0 : (Math.floor((3 * part) / whole) as 0 | 1 | 2 | 3);

/**
 * The trail's facts, from the study alone. Stations that know more say it themselves.
 *
 * @param confirmed how far the setpoint is confirmed, for who has models at hand or fits them for it
 */
export function trailOf(study: Study, confirmed?: string): StageMarker[] {
  const factors = activeFactors(study).length;
  const responses = study.responses.length;
  const wished = study.responses.filter((r) => r.goal.aim !== "watch");
  const trials = study.trials.length;
  const run = study.trials.filter((t) => t.state === "done").length;
  const waiting = study.trials.filter((t) => t.state === "planned").length;
  const modelled = study.models.length;
  const asked = (factors >= 2 ? 1 : 0) + (responses > 0 ? 1 : 0) + (wished.length > 0 ? 1 : 0);
  return [
    {
      station: "question",
      fact:
        factors + responses === 0
          ? "nothing asked yet"
          : `${count(factors, "factor")} · ${count(responses, "response")}`,
      stones: asked as 0 | 1 | 2 | 3,
      loose: false,
    },
    {
      station: "plan",
      fact:
        trials === 0
          ? factors < 2
            ? "needs factors"
            : "choosing wave 1"
          : `${count(study.waves.length, "wave")} · ${count(trials, "trial")}`,
      stones: trials > 0 ? 3 : 0,
      loose: false,
    },
    {
      station: "trials",
      fact: trials === 0 ? "none yet" : `${run} of ${trials} run`,
      stones: third(trials - waiting, trials),
      loose: false,
    },
    {
      station: "model",
      fact:
        run === 0
          ? "needs results"
          : modelled === 0
            ? "none chosen yet"
            : `${modelled} of ${count(responses, "response")}`,
      stones: third(Math.min(modelled, responses), responses),
      loose: modelled > 0 && waiting > 0 && run > 0,
    },
    {
      station: "setpoint",
      fact: study.setpoint
        ? confirmed
          ? `chosen, ${confirmed}`
          : "chosen"
        : wished.length > 0 && modelled >= wished.length
          ? "not chosen yet"
          : "needs models",
      stones: study.setpoint ? 2 : 0,
      loose: study.setpoint !== undefined && waiting > 0,
    },
    { station: "report", fact: "draft", stones: study.setpoint ? 1 : 0, loose: false },
  ];
}
