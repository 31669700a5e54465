import type { CountedFault } from "../messages/counted";
import { readNumber } from "../numerics/read-number";
import { readResultCell } from "./repeats";
import {
  type CountedResult,
  type HowMeasured,
  type KeptResult,
  KIND_FIELDS,
  type ReadResult,
  type ResultKind,
} from "./result";

/** “3/50”, “3 of 50”, “3 in 50”. */
const PAIR = /^(.+?)\s*(?:\/|\bof\b|\bin\b)\s*(.+)$/i;
const PERCENT = /^(.+?)\s*%(?:\s*(?:of|in)\s*(.+))?$/i;

/** A share or a count as it is written: events and what they were counted on. */
const written = ({ events, of }: CountedResult): string => `${events}/${of}`;

/** Events of a trial with what they were counted on; null where nothing was counted. */
function eventsOf(result: KeptResult | undefined, { of }: HowMeasured): CountedResult | null {
  if (typeof result === "number") return of === undefined ? null : { events: result, of };
  return result !== null && result !== undefined && !Array.isArray(result) ? result : null;
}

/** What events of a share and a count differ in. */
interface Own
  extends Pick<
    ResultKind,
    "id" | "name" | "percent" | "ends" | "lot" | "unit" | "shownUnit" | "heading" | "on" | "examples"
  > {
  /** Variance of one piece, or of one unit of exposure, at a share or rate. */
  variance(base: number): number;
  /** What is wrong with events and what they were counted on, beside what no count may be. */
  wrong(counted: CountedResult): CountedFault["why"] | undefined;
  /** Of what is counted, what may be counted on: whole pieces alone. */
  whole: boolean;
  misfit: ResultKind["misfit"];
  steps(
    about: HowMeasured & { name: string },
    stands: (result: KeptResult | undefined) => CountedResult | null,
  ): ReturnType<ResultKind["control"]>["steps"];
  /** What is still to be counted of the usual number. */
  left(stands: CountedResult, about: HowMeasured): string;
  example: string;
  words: {
    of: { label: string; placeholder: string };
    lot: string;
    /** What one piece or one unit of exposure is called, where more are typed. */
    one(about: HowMeasured): string;
    base: { label: string; placeholder: string; wrong: string };
    cost: string;
  };
}

/**
 * A kind whose events are counted: a share of pieces, or a count over an exposure. What a trial was counted on is kept
 * with its events, since that of later trials may differ.
 */
export function countedKind(own: Own): ResultKind {
  const { whole } = own;
  const fault = (
    why: CountedFault["why"],
    { text = "", events = null, of = null }: Partial<Pick<CountedFault, "text" | "events" | "of">> = {},
  ): CountedFault => ({ why, share: whole, text, events, of });
  const faultOf = ({ events, of }: CountedResult): CountedFault | undefined => {
    const found = (why: CountedFault["why"]): CountedFault => fault(why, { events, of });
    if (!Number.isFinite(of) || !(of > 0) || (whole && !Number.isInteger(of))) return found("of");
    if (events < 0) return found("negative");
    if (!Number.isInteger(events)) return found("whole");
    const why = own.wrong({ events, of });
    return why && found(why);
  };
  const read = (text: string, about: HowMeasured, decimal?: Parameters<ResultKind["read"]>[2]): ReadResult => {
    const t = text.trim();
    if (t === "") return { ok: true, value: null };
    const no = (why: CountedFault["why"], known: { events?: number; of?: number } = {}): ReadResult => ({
      ok: false,
      fault: fault(why, { text: t, ...known }),
    });
    const number = (part: string): number | undefined => readNumber(part.trim(), decimal) ?? undefined;
    const kept = (events: number, of: number): ReadResult => {
      const wrong = faultOf({ events, of });
      return wrong ? { ok: false, fault: { ...wrong, text: t } } : { ok: true, value: { events, of } };
    };
    const percent = PERCENT.exec(t);
    if (percent) {
      const share = number(percent[1]);
      const of = percent[2] === undefined ? about.of : number(percent[2]);
      if (share === undefined) return no("unreadable");
      if (!own.percent) return no("percent-of-count");
      if (of === undefined) return no("share-only");
      // What percent lost to rounding is not pieces: 6 % of 50 is 3.
      const events = Number(((share * of) / 100).toPrecision(12));
      return Number.isInteger(events) ? kept(events, of) : no("fraction", { events, of });
    }
    const pair = PAIR.exec(t);
    if (pair) {
      const [events, of] = [number(pair[1]), number(pair[2])];
      return events === undefined || of === undefined ? no("unreadable") : kept(events, of);
    }
    const events = number(t);
    if (events === undefined) return no(readResultCell(t, decimal).ok ? "several" : "unreadable");
    if (own.percent && events > 0 && events < 1)
      return no(about.of === undefined ? "share-only" : "whole", {
        events,
        ...(about.of === undefined ? {} : { of: about.of }),
      });
    return about.of === undefined ? no("no-of", { events }) : kept(events, about.of);
  };
  const value = (result: KeptResult | undefined, about: HowMeasured): number | null => {
    const counted = eventsOf(result, about);
    return counted && counted.events / counted.of;
  };
  return {
    ...own,
    fields: KIND_FIELDS,
    several: false,
    rescaled: false,
    value,
    figures: () => [],
    events: eventsOf,
    fault(result, about) {
      if (result === null || result === undefined) return undefined;
      if (Array.isArray(result)) return fault("several");
      const counted = eventsOf(result, about);
      return counted ? faultOf(counted) : fault("no-of", { events: result as number });
    },
    unreadable: (text) => fault("unreadable", { text }),
    normalised: (result, about) => eventsOf(result, about) ?? result,
    read: (text, about, decimal, on = "") => read(on === "" || text === "" ? text : `${text}/${on}`, about, decimal),
    together(before, more) {
      const [a, b] = [before, more].map((r) => eventsOf(r, {}));
      return a && b ? { events: a.events + b.events, of: a.of + b.of } : more;
    },
    text(result, about) {
      const counted = eventsOf(result, about);
      return counted ? written(counted) : "";
    },
    said(result, about) {
      const counted = eventsOf(result, about);
      return counted ? `${counted.events} of ${counted.of}` : undefined;
    },
    // Events, and beside them what they were counted on where that is not the same in every trial.
    columns(about, results) {
      const differs = results.some((r) => (eventsOf(r, about)?.of ?? about.of) !== about.of);
      return [
        { suffix: "", unit: "", cell: (r) => eventsOf(r, about)?.events ?? null },
        ...(differs
          ? [
              {
                suffix: " of",
                unit: about.unit ?? "",
                cell: (r: KeptResult | undefined) => eventsOf(r, about)?.of ?? null,
              },
            ]
          : []),
      ];
    },
    noise({ of, base, excess, scatter }) {
      if (of === undefined || base === undefined) return undefined;
      return Math.sqrt(((scatter === "counting" ? 1 : (excess ?? 1)) * own.variance(base)) / of);
    },
    control: (about) => ({
      fields: "whole",
      example: own.example,
      steps: own.steps(about, (r) => eventsOf(r, about)),
      refusal: "on how much is it counted? Type it first, as 0/2.5, or say it on Question",
      said(result) {
        const counted = eventsOf(result, about);
        if (!counted) return "";
        const rate = Number((counted.events / counted.of).toPrecision(3));
        return `${rate} ${own.unit(about)}${own.left(counted, about)}`;
      },
    }),
    asks(about) {
      const { of, lot, one, base, cost } = own.words;
      const size = `is no number of ${one(about)}; type one above 0.`;
      return [
        { key: "of", ...of, wrong: size },
        { key: "lot", label: lot, placeholder: String(about.of ?? "–"), wrong: size },
        { key: "base", ...base, ...(own.percent ? { percent: true as const } : {}) },
        {
          key: "scatter",
          label: "trials scatter",
          placeholder: "",
          wrong: "",
          choices: [
            ["free", "beyond counting too"],
            ["counting", "by counting alone"],
          ],
        },
        ...(about.scatter === "counting"
          ? []
          : [
              {
                key: "excess" as const,
                label: "expected, times counting",
                placeholder: "1",
                wrong: "is no number above 0; 1 is counting alone.",
              },
            ]),
        {
          key: "pieceCost",
          label: cost,
          placeholder: "0",
          wrong: "is no cost; type a number above 0, or leave it empty.",
        },
      ];
    },
  };
}
