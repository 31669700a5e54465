import type { ChangeValues, LocationValues, Standing } from "../../messages/history";
import { formatMessage, type Message, type Words } from "../../messages/message";
import { listed, withUnit, written } from "../numbers";

const KINDS: Readonly<Record<string, string>> = {
  factors: "Factor",
  responses: "Response",
  covariates: "What is measured beside,",
  waves: "Wave",
  trials: "Trial",
  models: "Model of",
  rivals: "Kept plan",
};

/** What cells are called that are no words as they stand. */
const KEYS: Readonly<Record<string, string>> = {
  hardLow: "hard low",
  hardHigh: "hard high",
  change: "ease of change",
  goal: "aim and limits",
  smallest: "smallest change worth finding",
  use: "counts in models",
  why: "reason",
  order: "run order",
  standard: "standard order",
  block: "waves as blocks",
  average: "averaging",
  eta: "variance assumed between set-ups",
  tolerance: "± set",
};

const keyText = (key: string): string => KEYS[key] ?? key;

/** Places in a study, by code. */
export const locations: Words<LocationValues> = {
  study: (v) =>
    ({
      title: "Title of the study",
      notes: "Notes of the study",
      confidence: "Confidence",
      setupCost: "Cost of a set-up, in trials",
      costs: "What trials cost",
      region: "What must not be run",
      setpoint: "Setpoint",
      report: "What the report adds",
    })[v.cell] ?? v.cell,
  order: (v) => `Order of the ${v.list}`,
  thing: (v) => `${KINDS[v.list] ?? v.list} ${v.name}`,
  cell: (v) =>
    v.list === "models"
      ? `Model of ${v.name}, ${keyText(v.key)}`
      : v.list === "trials"
        ? `Trial ${v.name}, ${keyText(v.key)}`
        : `${v.name}, ${keyText(v.key)}`,
  "of-trial": (v) =>
    `${v.name} of trial ${v.trial}${v.bag === "asRun" ? ", as run" : v.bag === "settings" ? ", as planned" : ""}`,
};

const MOST_WORDS = 160;
/** Characters of a number from which nobody typed it. */
const LONG = 10;

function allOf(s: Standing): string {
  switch (s.is) {
    case "nothing":
      return "nothing";
    case "number":
      // As it was typed; what was worked out, to what can be read.
      return written(String(s.value).length > LONG ? Number(s.value.toPrecision(LONG - 3)) : s.value);
    case "text":
      return s.text;
    case "yes-no":
      return s.yes ? "yes" : "no";
    case "list":
      return s.of.length === 0 ? "nothing" : s.of.map(allOf).join(", ");
    case "bag":
      return s.of.length === 0 ? "nothing" : s.of.map(([name, v]) => `${keyText(name)} ${allOf(v)}`).join("; ");
  }
}

/** What stands in a cell, in words, cut where it is long. */
export const standingText = (s: Standing, unit = ""): string => {
  const all = withUnit(allOf(s), s.is === "number" || s.is === "list" ? unit : "");
  return all.length > MOST_WORDS ? `${all.slice(0, MOST_WORDS)}…` : all;
};

const spotText = (spot: Message<LocationValues>): string => formatMessage(locations, spot);

/** What became of a cell, by code. */
export const changeWords: Words<ChangeValues> = {
  changed: (v) => `${spotText(v.spot)}: ${standingText(v.from)} → ${standingText(v.to, v.unit)}`,
  entered: (v) => `${spotText(v.spot)}: ${standingText(v.to, v.unit)}`,
  cleared: (v) => `${spotText(v.spot)}: ${standingText(v.from, v.unit)} taken out`,
  added: (v) => `${spotText(v.spot)} added`,
  removed: (v) => `${spotText(v.spot)} removed`,
  "terms-moved": (v) =>
    `${spotText(v.spot)}: ${[
      ...(v.into.length > 0 ? [`${listed(v.into)} in`] : []),
      ...(v.out.length > 0 ? [`${listed(v.out)} out`] : []),
    ].join(", ")}`,
  moved: (v) => `${spotText(v.spot)} changed`,
};

/** Who made a change, where no name was given. */
const anonymous: Readonly<Record<string, string>> = {
  "": "somebody at this machine",
  http: "a program",
  shipped: "shipped with Trialmoor",
};

/** Whoever made a change, in words. */
export const whoText = (who: string): string => anonymous[who] ?? who;
