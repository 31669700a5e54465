import { activeFactors, centreSettings, settingsAsRun } from "../study/coding";
import { StudyError } from "../study/error";
import type { Settings, Study, Trial } from "../study/schema";
import { checkSettings } from "../study/validate";
import type { FollowOptions, FollowRuns } from "./options";

const MOST_COPIES = 20;
/** Confirmation trials unless a number is asked for. */
const CONFIRMATIONS = 3;

const whole = (value: number | undefined, fallback: number, most: number, what: string): number => {
  const n = value ?? fallback;
  if (!Number.isInteger(n) || n < 1 || n > most)
    throw new StudyError("bad-count.follow", { what, n, most }, ["trials"]);
  return n;
};

/**
 * The same settings once more: all distinct ones that count, or those of the trials picked.
 * @throws StudyError `unknown-id`, `no-trials`
 */
export function repeatRuns(study: Study, options: FollowOptions): FollowRuns {
  const copies = whole(options.trials, 1, MOST_COPIES, "The number of copies");
  const picked = options.of?.map((id) => {
    const trial = study.trials.find((t) => t.id === id);
    if (!trial) throw new StudyError("unknown-id.trial", { id }, ["of"]);
    return trial;
  });
  const counts = (t: Trial): boolean =>
    t.use && t.state !== "skipped" && t.state !== "failed" && t.kind !== "confirm" && t.kind !== "path";
  const seen = new Set<string>();
  const source = (picked ?? study.trials.filter(counts)).filter((t) => {
    const key = JSON.stringify(activeFactors(study).map((f) => t.settings[f.id]));
    if (seen.has(key)) return false;
    seen.add(key);
    return true;
  });
  if (source.length === 0) throw new StudyError("no-trials.repeat", {}, ["trials"]);
  return {
    runs: Array.from({ length: copies }, () => source)
      .flat()
      .map((t) => ({ settings: { ...t.settings }, kind: "repeat" as const })),
    recipe: { replicates: copies, ...(options.of ? { of: options.of } : {}) },
  };
}

/**
 * New trials at one place, to be compared with what the models say of it: the setpoint unless said.
 * @throws StudyError `no-setpoint`
 */
export function confirmRuns(study: Study, options: FollowOptions): FollowRuns {
  const n = whole(options.trials, CONFIRMATIONS, 200, "The number of confirmation trials");
  const chosen = options.at ?? study.setpoint?.settings;
  if (!chosen) throw new StudyError("no-setpoint.confirm", {}, ["setpoint"]);
  const retired = Object.fromEntries(
    study.factors.flatMap((f) => (f.retired === undefined ? [] : [[f.id, f.retired]])),
  );
  const settings: Settings = { ...centreSettings(study.factors), ...retired, ...chosen };
  checkSettings(study.factors, settings, ["at"]);
  return {
    runs: Array.from({ length: n }, () => ({ settings: { ...settings }, kind: "confirm" as const })),
    recipe: { at: settings },
  };
}

/**
 * The points of a path, one after another.
 * @throws StudyError `no-path`
 */
export function pathRuns(study: Study, options: FollowOptions): FollowRuns {
  const path = options.path ?? [];
  const covered = new Set(
    study.trials.map((t) => JSON.stringify(activeFactors(study).map((f) => settingsAsRun(t)[f.id]))),
  );
  const fresh = path.filter((s) => !covered.has(JSON.stringify(activeFactors(study).map((f) => s[f.id]))));
  const n = whole(options.trials, Math.max(1, Math.min(5, fresh.length)), 50, "The number of steps");
  if (fresh.length === 0) throw new StudyError("no-path", {}, ["kind"]);
  return {
    runs: fresh.slice(0, n).map((settings) => ({ settings: { ...settings }, kind: "path" as const })),
    recipe: {
      ...(options.response ? { response: options.response } : {}),
      ...(options.step === undefined ? {} : { step: options.step }),
    },
    cautions: [{ code: "in-turn", values: {} }],
    inOrder: true,
  };
}
