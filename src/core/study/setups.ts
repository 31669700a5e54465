import { type Edit, editsOf } from "./edit";
import { hardFactors } from "./roles";
import type { Study, Trial } from "./schema";

const inOrder = (study: Study, wave: string): Trial[] =>
  study.trials.filter((t) => t.wave === wave).sort((a, b) => a.order - b.order);

/** Waves whose trials were run with hard factors and are not marked as set-ups. */
const unmarked = (study: Study): string[] =>
  hardFactors(study).length === 0
    ? []
    : study.waves
        .map((w) => w.id)
        .filter((w) => inOrder(study, w).length > 1 && inOrder(study, w)[0].setup === undefined);

/** Trials in a row whose hard factors were planned alike. */
function runsOf(study: Study, wave: string): Trial[][] {
  const hard = hardFactors(study);
  const runs: Trial[][] = [];
  for (const t of inOrder(study, wave)) {
    const last = runs.at(-1);
    if (last && hard.every((f) => last[0].settings[f.id] === t.settings[f.id])) last.push(t);
    else runs.push([t]);
  }
  return runs;
}

/** What runs of equal settings would make set-ups of, where waves are not marked. */
export interface GuessedSetups {
  setups: number;
  trials: number;
  /** Trials of the longest. */
  most: number;
}

/**
 * Set-ups as runs of equal settings of the hard factors suggest them; undefined where nothing is to be marked, or where
 * every trial would be its own. A guess: settings that came back in the next trial may have been reset all the same.
 */
export function guessedSetups(study: Study): GuessedSetups | undefined {
  const runs = unmarked(study).flatMap((w) => runsOf(study, w));
  const most = Math.max(0, ...runs.map((r) => r.length));
  return most < 2 ? undefined : { setups: runs.length, trials: runs.flat().length, most };
}

/** Edits that mark what {@link guessedSetups} tells. */
export function guessedSetupEdits(study: Study): Edit[] {
  const edit = editsOf(study);
  return unmarked(study).flatMap((w) =>
    runsOf(study, w).flatMap((run, i) => run.map((t) => edit(["trials", t.id, "setup"], i + 1))),
  );
}

/** The trials that are the first of their set-up, where set-ups are marked. */
export function setupOpenings(study: Study): ReadonlySet<string> {
  if (hardFactors(study).length === 0) return new Set();
  const last = new Map<string, number | undefined>();
  const openings = new Set<string>();
  for (const t of [...study.trials].sort((a, b) => a.order - b.order)) {
    if (t.setup !== undefined && (!last.has(t.wave) || last.get(t.wave) !== t.setup)) openings.add(t.id);
    last.set(t.wave, t.setup);
  }
  return openings;
}

/** Whether a trial is the first of its set-up; undefined where its wave is not marked. */
export const opensSetup = (study: Study, trial: Trial): boolean | undefined =>
  trial.setup === undefined || hardFactors(study).length === 0 ? undefined : setupOpenings(study).has(trial.id);

/**
 * Edits for a set-up that was broken off, or repeated: with `opens`, trials from this one on belong to a new set-up;
 * without, its set-up goes on from the one before. Later set-ups of its wave are numbered anew.
 */
export function setupEdits(study: Study, trial: Trial, opens: boolean): Edit[] {
  const edit = editsOf(study);
  let setup = 0;
  return inOrder(study, trial.wave).flatMap((t, i, all) => {
    const first = i === 0 || (t.id === trial.id ? opens : t.setup !== all[i - 1].setup);
    if (first) setup++;
    return t.setup === setup ? [] : [edit(["trials", t.id, "setup"], setup)];
  });
}

/** Whether a trial's set-up may go on from the one before: the hard factors were planned alike. */
export function joinable(study: Study, trial: Trial): boolean {
  const before = inOrder(study, trial.wave)
    .filter((t) => t.order < trial.order)
    .at(-1);
  return before !== undefined && hardFactors(study).every((f) => before.settings[f.id] === trial.settings[f.id]);
}
