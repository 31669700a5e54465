import { log } from "../log";
import { Assignments } from "./assignments";
import { RigLink } from "./link";
import { linked } from "./seen";
import { changedAt, readSettings } from "./settings";

/** How often the settings file is looked at for a change, in milliseconds. */
const LOOK = 3000;

/**
 * Reaches the rigs by the settings file of the data folder, and follows its changes.
 * @returns ends it
 */
export function keepRigs(folder: string): () => Promise<void> {
  let seen = -1;
  let turn = Promise.resolve();
  const end = async (): Promise<void> => {
    const { link } = linked();
    linked({});
    await link?.close();
  };
  const look = async (): Promise<void> => {
    const now = changedAt(folder);
    if (now === seen) return;
    seen = now;
    await end();
    const read = readSettings(folder);
    if (!read) return;
    if ("sentence" in read) linked({ trouble: read.sentence });
    else linked({ link: new RigLink(read.settings, await Assignments.read()) });
  };
  const round = (): void => {
    turn = turn.then(look).catch((error: unknown) => {
      log.error(error);
    });
  };
  round();
  const timer = setInterval(round, LOOK).unref();
  return async () => {
    clearInterval(timer);
    await turn;
    await end();
  };
}
