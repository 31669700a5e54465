import { isNumeric } from "../study/coding";
import { StudyError } from "../study/error";
import type { Factor } from "../study/schema";

const MOST_LEVELS = 12;

/**
 * Reads how many levels continuous factors are to take: "3" for all of them, or "temp=3, dose=2" by id, letter or name.
 * @throws StudyError naming the part that cannot be read
 */
export function readLevels(factors: readonly Factor[], text: string | undefined): Map<string, number> {
  const out = new Map<string, number>();
  if (text === undefined || text.trim() === "") return out;
  const count = (part: string, whole: string): number => {
    const n = Number(part);
    if (!Number.isInteger(n) || n < 2 || n > MOST_LEVELS)
      throw new StudyError("bad-levels.number", { levels: whole, most: MOST_LEVELS }, ["levels"]);
    return n;
  };
  for (const part of text.split(/[,;]/).map((p) => p.trim())) {
    const equals = part.indexOf("=");
    if (equals < 0) {
      for (const f of factors) if (f.kind === "continuous") out.set(f.id, count(part, part));
      continue;
    }
    const name = part.slice(0, equals).trim();
    const f = factors.find((x) => x.id === name || x.letter === name || x.name.toLowerCase() === name.toLowerCase());
    if (!f) throw new StudyError("bad-levels.unknown", { part, name }, ["levels"]);
    if (f.kind !== "continuous")
      throw new StudyError("bad-levels.own", { part, factor: f.name, category: !isNumeric(f) }, ["levels"]);
    out.set(f.id, count(part.slice(equals + 1).trim(), part));
  }
  return out;
}

/** n evenly spaced coded values from −1 to 1. */
export const evenly = (n: number): number[] =>
  Array.from({ length: n }, (_, i) => (n === 1 ? 0 : -1 + (2 * i) / (n - 1)));
