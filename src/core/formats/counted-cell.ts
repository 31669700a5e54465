import type { CountedFault } from "../messages/counted";
import { countedFault, faultOfCounted, isCounted } from "../study/measured";
import type { Response, Result } from "../study/schema";
import { type DecimalMark, readNumber } from "./number";
import { readResultCell } from "./result-cell";

/** What a cell of a response says, or what is wrong with it. */
export type ResponseCell = { ok: true; value: Result } | { ok: false; fault: CountedFault };

/** “3/50”, “3 of 50”, “3 in 50”. */
const PAIR = /^(.+?)\s*(?:\/|\bof\b|\bin\b)\s*(.+)$/i;
const PERCENT = /^(.+?)\s*%(?:\s*(?:of|in)\s*(.+))?$/i;

/**
 * Reads a cell of a share or a count: events and what they were counted on, “3/50” or “3 of 50”; events alone where
 * the response says on how many; a percentage of a share likewise, where it makes whole pieces. Other responses' cells
 * hold one value or several.
 */
export function readResponseCell(
  about: Pick<Response, "measured" | "of">,
  text: string,
  decimal: DecimalMark = "either",
): ResponseCell {
  const t = text.trim();
  const fault = (why: CountedFault["why"], known: { events?: number; of?: number } = {}): ResponseCell => ({
    ok: false,
    fault: countedFault(about, why, { text: t, ...known }),
  });
  if (!isCounted(about)) {
    const read = readResultCell(t, decimal);
    return read.ok ? read : fault(read.why === "either" ? "either" : "unreadable");
  }
  if (t === "") return { ok: true, value: null };
  const read = (part: string): number | undefined => readNumber(part.trim(), decimal) ?? undefined;
  const kept = (events: number, of: number): ResponseCell => {
    const wrong = faultOfCounted(about, { events, of });
    return wrong ? { ok: false, fault: { ...wrong, text: t } } : { ok: true, value: { events, of } };
  };
  const percent = PERCENT.exec(t);
  if (percent) {
    const share = read(percent[1]);
    const of = percent[2] === undefined ? about.of : read(percent[2]);
    if (share === undefined) return fault("unreadable");
    if (about.measured === "count") return fault("percent-of-count");
    if (of === undefined) return fault("share-only");
    // What percent lost to rounding is not pieces: 6 % of 50 is 3.
    const events = Number(((share * of) / 100).toPrecision(12));
    return Number.isInteger(events) ? kept(events, of) : fault("fraction", { events, of });
  }
  const pair = PAIR.exec(t);
  if (pair) {
    const [events, of] = [read(pair[1]), read(pair[2])];
    return events === undefined || of === undefined ? fault("unreadable") : kept(events, of);
  }
  const events = read(t);
  if (events === undefined) return fault(readResultCell(t, decimal).ok ? "several" : "unreadable");
  if (about.measured === "share" && events > 0 && events < 1)
    return fault(about.of === undefined ? "share-only" : "whole", {
      events,
      ...(about.of === undefined ? {} : { of: about.of }),
    });
  return about.of === undefined ? fault("no-of", { events }) : kept(events, about.of);
}

/** A share or a count as it is written: events and what they were counted on. */
export const countedText = ({ events, of }: { events: number; of: number }): string => `${events}/${of}`;
