import type { Words } from "../../messages/message";
import type { RiskValues, WaveNameValues, WhyValues } from "../../messages/waves";
import { figure, fixed, listed, pText } from "../numbers";
import { verb } from "./parts";

/** Why a wave may follow, by code; terms as their letters. */
export const whys: Words<WhyValues> = {
  "bend-or-shift": (v) =>
    `Bend or shift in ${v.response} (${pText(v.p)}): the centre ran in a wave of its own, and only other places with some of the same corners tell them apart.`,
  chain: (v) =>
    `${v.terms.join(" = ")} is active in ${v.response} and cannot be told apart${v.more > 0 ? `, nor ${v.more} more like it` : ""}.`,
  "which-square": (v) =>
    `Something bends in ${v.response}, and ${v.term} cannot be told from ${v.others.join(", ")}${v.more ? ", …" : ""}; axial points say which factor bends.`,
  "centre-off": (v) =>
    `The centre of ${v.response} lies off the straight lines (${pText(v.p)}); axial points say which factor bends.`,
  uphill: (v) =>
    `${v.response} does not reach its limit inside these ranges, and its model still climbs at their edge.`,
  "few-df": (v) =>
    `${v.response} has ${v.df} ${verb(v.df, "degree", "degrees")} of freedom for error: too few to judge effects by.`,
  "not-run": () => "The setpoint is chosen and has not been run.",
  "carry-asked": (v) => `Asked for: ${listed(v.factors)} in a plan of ${verb(v.factors.length, "its", "their")} own.`,
  idle: (v) =>
    `${listed(v.factors)} ${verb(v.factors.length, "looks", "look")} idle in every response; the rest can be characterised.`,
};

/** What waves that may follow are called, by code. */
export const waveNames: Words<WaveNameValues> = {
  axial: () => "Axial points",
  corners: () => "Some corners again",
  chains: () => "Part the active chains",
  more: () => "More trials, where they tell most of what is asked",
  "half-foldover": () => "Half a fold-over",
  "missing-fraction": () => "The missing fraction",
  climb: (v) => `Climb for ${v.response}`,
  centre: () => "Centre points",
  confirm: () => "Confirm the setpoint",
  foldover: () => "Fold-over",
  carry: (v) => `Carry ${listed(v.letters)} on`,
  repeat: () => "Repeat what was run",
  named: (v) => v.name,
};

/** What could go wrong with a plan, by code. */
export const risks: Words<RiskValues> = {
  "not-told-more": (v) =>
    `And ${v.n} more ${v.n === 1 ? "effect" : "effects"} that cannot be told from others: struck in the term map.`,
  "not-told-from": (v) => `${v.term} cannot be told from ${listed(v.from)}.`,
  "no-estimate": (v) =>
    `${v.n} of the effects asked ${verb(v.n, "has", "have")} no estimate beside the others, such as ${listed(v.such)}.`,
  "not-at-all": (v) => `${listed(v.terms)} cannot be estimated at all.`,
  "with-blocks": (v) =>
    `${listed(v.terms)}${v.more > 0 ? ` and ${v.more} more` : ""} cannot be told from differences between blocks${v.asked ? "" : ", which is what blocks cost"}.`,
  leaks: (v) =>
    `${v.term} takes up ${v.percent > 100 ? `${figure(v.percent / 100)} times` : `${v.percent} % of`} ${v.from}, should that be active.`,
  "no-error-df": () => "Nothing is left to judge noise by: it rests on the stated noise.",
  "few-between": (v) =>
    `${v.df === 0 ? "No degree" : "Only one degree"} of freedom is left between set-ups, so what hard factors do is judged by an assumed variance.`,
  "few-error-df": (v) =>
    `Only ${v.df} ${verb(v.df, "degree", "degrees")} of freedom ${verb(v.df, "judges", "judge")} the noise, so intervals will be wide.`,
  "no-copies": () => "No trial is run twice, so lack of fit cannot be tested.",
  inflated: (v) => `Some terms lean on each other: variance is inflated up to ${figure(v.vif)} times.`,
  "axial-moved": (v) =>
    `What can be set moves axial points: ${v.factors.map((f) => `${f.name} stands at ${fixed(f.stands, 2)}, not ${fixed(f.wanted, 2)}`).join("; ")}, in half ranges from the middle.`,
  "loses-trials": (v) => `The region takes ${v.n === 1 ? "one" : v.n} of its trials away.`,
};
