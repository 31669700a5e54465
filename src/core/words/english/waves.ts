import { figure, fixed, listed, pText } from "../numbers";
import type { ValuesOf } from "../said";
import { verb } from "./parts";

/** Why a wave may follow, by code; terms as their letters. */
export const whys = {
  "bend-or-shift": (v: { response: string; p: number }) =>
    `Bend or shift in ${v.response} (${pText(v.p)}): the centre ran in a wave of its own, and only other places with some of the same corners tell them apart.`,
  chain: (v: { response: string; terms: string[]; more: number }) =>
    `${v.terms.join(" = ")} is active in ${v.response} and cannot be told apart${v.more > 0 ? `, nor ${v.more} more like it` : ""}.`,
  "which-square": (v: { response: string; term: string; others: string[]; more: boolean }) =>
    `Something bends in ${v.response}, and ${v.term} cannot be told from ${v.others.join(", ")}${v.more ? ", …" : ""}; axial points say which factor bends.`,
  "centre-off": (v: { response: string; p: number }) =>
    `The centre of ${v.response} lies off the straight lines (${pText(v.p)}); axial points say which factor bends.`,
  uphill: (v: { response: string }) =>
    `${v.response} does not reach its limit inside these ranges, and its model still climbs at their edge.`,
  "few-df": (v: { response: string; df: number }) =>
    `${v.response} has ${v.df} ${verb(v.df, "degree", "degrees")} of freedom for error: too few to judge effects by.`,
  "not-run": (_: object) => "The setpoint is chosen and has not been run.",
  "carry-asked": (v: { factors: string[] }) =>
    `Asked for: ${listed(v.factors)} in a plan of ${verb(v.factors.length, "its", "their")} own.`,
  idle: (v: { factors: string[] }) =>
    `${listed(v.factors)} ${verb(v.factors.length, "looks", "look")} idle in every response; the rest can be characterised.`,
};

export type WhyValues = ValuesOf<typeof whys>;

/** What waves that may follow are called, by code. */
export const waveNames = {
  axial: (_: object) => "Axial points",
  corners: (_: object) => "Some corners again",
  chains: (_: object) => "Part the active chains",
  more: (_: object) => "More trials, where they tell most of what is asked",
  "half-foldover": (_: object) => "Half a fold-over",
  "missing-fraction": (_: object) => "The missing fraction",
  climb: (v: { response: string }) => `Climb for ${v.response}`,
  centre: (_: object) => "Centre points",
  confirm: (_: object) => "Confirm the setpoint",
  foldover: (_: object) => "Fold-over",
  carry: (v: { letters: string[] }) => `Carry ${listed(v.letters)} on`,
  repeat: (_: object) => "Repeat what was run",
};

export type WaveNameValues = ValuesOf<typeof waveNames>;

/** What could go wrong with a plan, by code. */
export const risks = {
  "not-told-from": (v: { term: string; from: string[] }) => `${v.term} cannot be told from ${listed(v.from)}.`,
  "no-estimate": (v: { n: number; such: string[] }) =>
    `${v.n} of the effects asked ${verb(v.n, "has", "have")} no estimate beside the others, such as ${listed(v.such)}.`,
  "not-at-all": (v: { terms: string[] }) => `${listed(v.terms)} cannot be estimated at all.`,
  "with-blocks": (v: { terms: string[]; more: number; asked: boolean }) =>
    `${listed(v.terms)}${v.more > 0 ? ` and ${v.more} more` : ""} cannot be told from differences between blocks${v.asked ? "" : ", which is what blocks cost"}.`,
  leaks: (v: { term: string; percent: number; from: string }) =>
    `${v.term} takes up ${v.percent > 100 ? `${figure(v.percent / 100)} times` : `${v.percent} % of`} ${v.from}, should that be active.`,
  "no-error-df": (_: object) => "Nothing is left to judge noise by: it rests on the stated noise.",
  "few-between": (v: { df: number }) =>
    `${v.df === 0 ? "No degree" : "Only one degree"} of freedom is left between set-ups, so what hard factors do is judged by an assumed variance.`,
  "few-error-df": (v: { df: number }) =>
    `Only ${v.df} ${verb(v.df, "degree", "degrees")} of freedom ${verb(v.df, "judges", "judge")} the noise, so intervals will be wide.`,
  "no-copies": (_: object) => "No trial is run twice, so lack of fit cannot be tested.",
  inflated: (v: { vif: number }) => `Some terms lean on each other: variance is inflated up to ${figure(v.vif)} times.`,
  "axial-moved": (v: { factors: { name: string; wanted: number; stands: number }[] }) =>
    `What can be set moves axial points: ${v.factors.map((f) => `${f.name} stands at ${fixed(f.stands, 2)}, not ${fixed(f.wanted, 2)}`).join("; ")}, in half ranges from the middle.`,
  "loses-trials": (v: { n: number }) => `The region takes ${v.n === 1 ? "one" : v.n} of its trials away.`,
};

export type RiskValues = ValuesOf<typeof risks>;
