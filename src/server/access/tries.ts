/** Wrong tries that are free; from then on each waits. */
const FREE = 5;
const FIRST_WAIT_MS = 30_000;
const LONGEST_WAIT_MS = 15 * 60_000;
/** After this long without one, tries are forgotten. */
const FORGOTTEN_MS = 60 * 60_000;
/** Most addresses that are remembered; the one heard of longest ago goes first. */
const MOST = 10_000;

interface Tries {
  wrong: number;
  until: number;
  at: number;
}

/** Wrong passphrases of each address: after five, the next is heard after a wait that doubles each time. */
export class WrongTries {
  private readonly tries = new Map<string, Tries>();

  /** How long an address must still wait, in milliseconds; 0 where it need not. */
  waits(address: string, now = Date.now()): number {
    const known = this.tries.get(address);
    if (!known) return 0;
    if (now - known.at > FORGOTTEN_MS) {
      this.tries.delete(address);
      return 0;
    }
    return Math.max(0, known.until - now);
  }

  /** Takes note of a try before it is known to be right, so that many at once count as many. */
  begun(address: string, now = Date.now()): void {
    this.note(address, (this.tries.get(address)?.wrong ?? 0) + 1, now);
  }

  /** It was wrong: the wait begins now, however long the look took. */
  wrong(address: string, now = Date.now()): void {
    this.note(address, this.tries.get(address)?.wrong ?? 1, now);
  }

  private note(address: string, wrong: number, now: number): void {
    const wait = wrong < FREE ? 0 : Math.min(LONGEST_WAIT_MS, FIRST_WAIT_MS * 2 ** (wrong - FREE));
    this.tries.delete(address);
    this.tries.set(address, { wrong, until: now + wait, at: now });
    const [oldest] = this.tries.keys();
    if (this.tries.size > MOST && oldest !== undefined) this.tries.delete(oldest);
  }

  /** It was right: what came before is forgotten. */
  right(address: string): void {
    this.tries.delete(address);
  }
}

/** Whose tries are counted together: an address, of IPv6 the network that one household or hall has. */
export const triesOf = (address: string): string => {
  const v4 = /(\d+\.\d+\.\d+\.\d+)$/.exec(address)?.[1];
  if (v4 !== undefined) return v4;
  const [head, tail = ""] = address.split("::");
  const groups = head.split(":").filter(Boolean);
  const rest = tail.split(":").filter(Boolean);
  const all = address.includes("::")
    ? [...groups, ...Array<string>(Math.max(0, 8 - groups.length - rest.length)).fill("0"), ...rest]
    : groups;
  return all.slice(0, 4).join(":");
};
