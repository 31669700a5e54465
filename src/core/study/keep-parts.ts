import { sameData } from "./edit";
import type { Study } from "./schema";

/** A list whose entries are the same things as before where they say the same. */
const keptList = (before: readonly unknown[], now: readonly unknown[]): unknown[] =>
  now.map((v, i) => (sameData(before[i], v) ? before[i] : v));

/**
 * A state of a study that came as a copy, each part that says what it said before being the same thing as before: what
 * was derived of it stands.
 */
export function keepParts(before: Study, now: Study): Study {
  const was = new Map<string, unknown>(Object.entries(before));
  const part = ([key, value]: [string, unknown]): [string, unknown] => {
    const old = was.get(key);
    if (sameData(old, value)) return [key, old];
    return [key, Array.isArray(old) && Array.isArray(value) ? keptList(old, value) : value];
  };
  return Object.fromEntries(Object.entries(now).map(part)) as unknown as Study;
}
