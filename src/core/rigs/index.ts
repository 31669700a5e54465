import { StudyError } from "../study/error";
import type { Study, Trial } from "../study/schema";
import { buttonPress } from "./button-press";
import { freezeDryer } from "./freeze-dryer";
import { nickelBath } from "./nickel-bath";
import { type Rig, rigUnfit, runTrial } from "./rig";
import { smokehouse } from "./smokehouse";
import { woolLine } from "./wool-line";

/** Every virtual process that ships. */
export const rigs: readonly Rig[] = [woolLine, freezeDryer, nickelBath, buttonPress, smokehouse];

/**
 * The rig of that name.
 * @throws StudyError listing the names there are
 */
export function rigNamed(name: string): Rig {
  const rig = rigs.find((r) => r.id === name);
  if (!rig) throw new StudyError("unknown-rig", { rig: name, rigs: rigs.map((r) => r.id) }, ["rig"]);
  return rig;
}

/** The rigs that can run a study's trials. */
export const rigsFor = (study: Study): Rig[] => rigs.filter((r) => rigUnfit(r, study) === undefined);

/** Trials that wait for a run, in run order. */
export const waiting = (study: Study): Trial[] =>
  study.trials.filter((t) => t.state === "planned").sort((a, b) => a.order - b.order);

/**
 * Runs the trials not yet run, one after another, yielding each trial with its results.
 * @throws StudyError `rig-unfit`
 */
export function* runRig(study: Study, name: string, seed: number): Generator<Trial, Study, void> {
  const rig = rigNamed(name);
  const refusal = rigUnfit(rig, study);
  if (refusal) throw new StudyError("rig-unfit.study", { why: refusal }, ["rig"]);
  const done = new Map<string, Trial>();
  for (const trial of waiting(study)) {
    const ran: Trial = { ...trial, state: "done", results: { ...trial.results, ...runTrial(rig, study, trial, seed) } };
    done.set(trial.id, ran);
    yield ran;
  }
  return { ...study, trials: study.trials.map((t) => done.get(t.id) ?? t) };
}
