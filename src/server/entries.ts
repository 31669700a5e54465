import { benchEntry, entryEdits, standingAt, trialOf } from "@/core/operator";
import { sameData, type Trial } from "@/core/study";
import { Problem } from "./problem";
import { changeNow, digestOf, readStudy } from "./studies";

/** A body of what was noted at the bench. */
export const entrySchema = benchEntry;
export type Entry = Parameters<typeof entryEdits>[2];

/** What an entry made: the revision, and the trial as it then stands. */
export interface Entered {
  revision: number;
  trial: Trial;
}

const WORDS: Record<Entry["cell"], string> = {
  results: "entered at the bench",
  asRun: "set otherwise, at the bench",
  note: "noted at the bench",
  state: "marked at the bench",
  setUp: "set up at the bench",
};

/**
 * Takes in one thing noted beside the machine. It needs no revision: it says what stood in its cell, and where
 * something else stands now nothing is overwritten. Sent again under the same key it is not done again.
 * @throws Problem `no-study`, `clash` with what stands, `key-reused`
 * @throws StudyError `unknown-id`, or what the study would not be with it
 */
export async function enterAtBench(
  id: string,
  trial: string,
  entry: Entry,
  who: string,
  key: string | undefined,
): Promise<Entered> {
  const request = key === undefined ? undefined : { key, digest: digestOf({ id, trial, entry }) };
  const { revision, study } = await changeNow(
    id,
    (study) => {
      const now = standingAt(study, trial, entry);
      if (sameData(now, entry.value)) return [];
      if (!sameData(now, entry.was))
        throw new Problem("clash", {}, { path: ["was"], more: { now: now ?? null, yours: entry.value } });
      return entryEdits(study, trial, entry);
    },
    `trial ${trialOf((await readStudy(id)).study, trial).order}: ${WORDS[entry.cell]}`,
    who,
    request,
  );
  return { revision, trial: trialOf(study, trial) };
}
