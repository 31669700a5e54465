import type { BrokerState, KnownRig, RigLink } from "./link";

/** What a page is told of rigs; nothing where no settings file names a broker. */
export interface RigsSeen {
  broker: BrokerState;
  rigs: KnownRig[];
}

/** The link to the rigs, or why there is none. */
interface Linked {
  link?: RigLink;
  trouble?: string;
}

// The link stands in the server's own bundle; the application's routes reach it here.
const holder = globalThis as unknown as { trialmoorRigs?: Linked };

/** The link as it stands; given one, that from now on. */
export function linked(now?: Linked): Linked {
  if (now) holder.trialmoorRigs = now;
  return holder.trialmoorRigs ?? {};
}

/** The rigs as they are known now. */
export function seenRigs(): RigsSeen | undefined {
  const { link, trouble } = linked();
  if (trouble !== undefined) return { broker: { state: "refused", address: "", sentence: trouble }, rigs: [] };
  return link && { broker: { ...link.broker }, rigs: link.known() };
}
