"use client";
import { useState } from "react";
import { type Ask, families, type PlanOptions, readNumber, type Study } from "@/core";
import { Popover } from "@/ui/parts/overlays";

/** Fields that a family reads, besides the counts that all share. */
const FIELDS: Readonly<Record<string, readonly Field[]>> = {
  factorial: ["levels", "blocks"],
  fraction: ["trials", "generators", "blocks"],
  "plackett-burman": ["trials", "foldOver"],
  composite: ["axial", "shrink", "blocks"],
  "box-behnken": ["blocks"],
  definitive: ["trials"],
  array: ["trials", "levels"],
  optimal: ["trials", "criterion", "starts", "blocks", "keep"],
  "least-aliasing": ["trials", "possible", "keepEfficiency", "starts"],
};
/** Whether a family can be split into blocks when the heading asks for some. */
export const takesBlocks = (family: string): boolean => FIELDS[family]?.includes("blocks") ?? false;
type Field =
  | "trials"
  | "generators"
  | "axial"
  | "shrink"
  | "levels"
  | "foldOver"
  | "criterion"
  | "possible"
  | "keepEfficiency"
  | "starts"
  | "blocks"
  | "keep";
const NAMES: Readonly<Record<Field, string>> = {
  trials: "base trials",
  generators: "generators",
  axial: "axial points",
  shrink: "drawn in to the range",
  levels: "levels",
  foldOver: "fold over",
  criterion: "sharpest by",
  possible: "kept clear of",
  keepEfficiency: "D-efficiency kept, %",
  starts: "random starts",
  blocks: "blocks",
  keep: "count the runs made",
};
const HINTS: Partial<Record<Field, string>> = {
  generators: "E=ABC, F=-BCD",
  levels: "3, or A=3, B=2",
  starts: "by size",
  keepEfficiency: "90",
};
const CHOICES: Partial<Record<Field, [string, string][]>> = {
  axial: [
    ["", "as far as the limits allow"],
    ["rotatable", "rotatable"],
    ["spherical", "spherical"],
    ["face", "on the faces"],
    ["orthogonal-blocks", "orthogonal to blocks"],
    ["own", "own distance"],
  ],
  possible: [
    ["main+2fi", "two-factor interactions"],
    ["quadratic", "interactions and bends"],
    ["asked", "the terms asked above"],
  ],
  criterion: [
    ["D", "D: terms jointly"],
    ["A", "A: terms on average"],
    ["I", "I: prediction over the region"],
  ],
};

/** A plan of a family with its own options, put into the chart beside the others. */
export function OwnPlan({
  study,
  ask,
  add,
  busy,
  sentence,
}: {
  study: Study;
  ask: Ask;
  add(options: PlanOptions): void;
  busy: boolean;
  sentence: string | undefined;
}) {
  const [open, setOpen] = useState(false);
  const [family, setFamily] = useState("fraction");
  const [values, setValues] = useState<Partial<Record<Field | "distance", string>>>({});
  const [wrong, setWrong] = useState<string | undefined>(undefined);
  const chosen = families.find((f) => f.id === family);
  const refusal = chosen?.unfit(study);
  const fields = (FIELDS[family] ?? []).filter((f) => f !== "keep" || study.trials.length > 0);
  const sizes = chosen && !refusal && !chosen.searches ? chosen.sizes(study) : [];
  const take = (): void => {
    const whole = (field: Field): number | undefined => {
      const text = values[field]?.trim() ?? "";
      if (text === "") return undefined;
      const v = readNumber(text);
      if (typeof v !== "number" || !Number.isInteger(v) || v < 1)
        throw new Error(`${NAMES[field]}: “${text}” is not a whole number; type one from 1.`);
      return v;
    };
    try {
      // Centre points, replicates, order and seed are the heading's, for this plan as for all others.
      const options: PlanOptions = { family };
      const set = <K extends keyof PlanOptions>(key: K, value: PlanOptions[K] | undefined): void => {
        if (value !== undefined) options[key] = value;
      };
      if (fields.includes("trials")) set("trials", whole("trials"));
      if (fields.includes("blocks")) set("blocks", whole("blocks"));
      if (fields.includes("starts")) set("starts", whole("starts"));
      if (fields.includes("generators")) set("generators", values.generators?.trim() || undefined);
      if (fields.includes("levels")) set("levels", values.levels?.trim() || undefined);
      if (fields.includes("shrink") && values.shrink === "yes") set("shrink", true);
      if (fields.includes("foldOver") && values.foldOver === "yes") set("foldOver", true);
      if (fields.includes("keep") && values.keep === "yes") set("keep", true);
      if (fields.includes("criterion")) set("criterion", (values.criterion as "D" | "A" | "I" | undefined) ?? "D");
      if (fields.includes("axial") && values.axial) {
        if (values.axial !== "own") set("axial", values.axial);
        else {
          const v = readNumber(values.distance ?? "");
          if (typeof v !== "number" || v <= 0)
            throw new Error("Axial distance: type a number of half-ranges above 0, such as 1.4.");
          set("axial", v);
        }
      }
      if (fields.includes("keepEfficiency") && values.keepEfficiency) {
        const v = readNumber(values.keepEfficiency);
        if (typeof v !== "number" || v <= 0 || v > 100)
          throw new Error("D-efficiency kept: type a share above 0 and up to 100 %.");
        set("keepEfficiency", v / 100);
      }
      if (chosen?.searches) options.terms = ask.terms;
      if (fields.includes("possible") && values.possible) {
        // What is asked is then kept clear of the main effects rather than estimated beside them.
        if (values.possible === "asked") options.terms = "main";
        options.possible = values.possible === "asked" ? ask.terms : (values.possible as "main+2fi" | "quadratic");
      }
      setWrong(undefined);
      add(options);
    } catch (error) {
      setWrong(error instanceof Error ? error.message : String(error));
    }
  };
  const label = (field: Field, body: React.ReactNode) => (
    <label key={field} className="row" style={{ justifyContent: "space-between", marginBottom: 6 }}>
      {NAMES[field]}
      {body}
    </label>
  );
  const trigger = (
    <button type="button" className="btn small" {...(open ? {} : { onClick: () => setOpen(true) })}>
      Own plan
    </button>
  );
  if (!open) return trigger;
  return (
    <Popover
      open
      onOpenChange={setOpen}
      trigger="click"
      placement="bottomRight"
      content={
        <form
          style={{ width: 320 }}
          onSubmit={(e) => {
            e.preventDefault();
            take();
          }}
        >
          <label className="row" style={{ justifyContent: "space-between", marginBottom: 6 }}>
            family
            <select
              className="field"
              aria-label="Plan family"
              value={family}
              onChange={(e) => setFamily(e.target.value)}
            >
              {families.map((f) => (
                <option key={f.id} value={f.id}>
                  {f.label}
                </option>
              ))}
            </select>
          </label>
          {fields.map((field) => {
            const choices =
              field === "trials" && sizes.length > 0
                ? sizes.map((n): [string, string] => [String(n), String(n)])
                : CHOICES[field];
            if (field === "foldOver" || field === "keep" || field === "shrink")
              return label(
                field,
                <input
                  type="checkbox"
                  checked={values[field] === "yes"}
                  onChange={(e) => setValues({ ...values, [field]: e.target.checked ? "yes" : "" })}
                />,
              );
            if (choices && !(field === "trials" && values.generators?.trim()))
              return label(
                field,
                <select
                  className="field"
                  aria-label={NAMES[field]}
                  value={values[field] ?? ""}
                  onChange={(e) => setValues({ ...values, [field]: e.target.value })}
                >
                  {field === "trials" && <option value="">choose</option>}
                  {choices.map(([v, text]) => (
                    <option key={v} value={v}>
                      {text}
                    </option>
                  ))}
                </select>,
              );
            return label(
              field,
              <input
                className="field num"
                style={{ width: 150 }}
                aria-label={NAMES[field]}
                placeholder={HINTS[field]}
                value={values[field] ?? ""}
                onChange={(e) => setValues({ ...values, [field]: e.target.value })}
              />,
            );
          })}
          {fields.includes("axial") && values.axial === "own" && (
            <label className="row" style={{ justifyContent: "space-between", marginBottom: 6 }}>
              distance, half-ranges
              <input
                className="field num"
                style={{ width: 150 }}
                aria-label="Axial distance"
                placeholder="1.4"
                value={values.distance ?? ""}
                onChange={(e) => setValues({ ...values, distance: e.target.value })}
              />
            </label>
          )}
          {(wrong ?? refusal ?? sentence) && (
            <p className="rowan small" role="alert" style={{ marginBottom: 6 }}>
              {wrong ?? refusal ?? sentence}
            </p>
          )}
          <button type="submit" className="btn main" disabled={busy || refusal !== undefined}>
            {busy ? "Searching…" : "Put it in the chart"}
          </button>
        </form>
      }
    >
      {trigger}
    </Popover>
  );
}
