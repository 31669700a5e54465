"use client";
import { Button, Checkbox, Input } from "antd";
import { useState } from "react";
import {
  commonOptions,
  controls,
  families,
  type OptionControl,
  type PlanFamily,
  type PlanOptions,
  type PlanRequest,
  readNumber,
  type Study,
  termOptions,
  unfitOf,
} from "@/core";
import { Popover } from "@/ui/parts/overlays";
import { Pick } from "@/ui/parts/pick";

/** One option as the form asks for it. */
interface Field {
  name: string;
  control: OptionControl;
}

/** What the form asks of a family: base trials, then its own options in their order, then blocks. */
export function fieldsOf(family: PlanFamily, study: Study): Field[] {
  const shapes = {
    trials: commonOptions.trials,
    ...family.options,
    ...(family.uses?.includes("possible") ? { possible: termOptions.possible } : {}),
    blocks: commonOptions.blocks,
  };
  return Object.entries(shapes).flatMap(([name, schema]) => {
    const control = controls.get(schema as never);
    return control && !(control.afterTrials && study.trials.length === 0) ? [{ name, control }] : [];
  });
}

/** What was typed, as the option means it; undefined leaves it out. */
function readField({ name, control }: Field, values: Readonly<Record<string, string>>): unknown {
  const text = values[name]?.trim() ?? "";
  if (control.other && text === "other") {
    const typed = readNumber(values[`${name}:other`] ?? "");
    if (typeof typed !== "number" || typed <= 0)
      throw new Error(`${control.other.label}: type a number above 0, such as ${control.other.hint}.`);
    return typed;
  }
  if (text === "") return undefined;
  if (control.control === "switch") return text === "yes" ? true : undefined;
  if (control.control === "count") {
    const v = readNumber(text);
    if (typeof v !== "number" || !Number.isInteger(v) || v < 1)
      throw new Error(`${control.label}: “${text}” is not a whole number; type one from 1.`);
    return v;
  }
  if (control.control === "percent") {
    const v = readNumber(text);
    if (typeof v !== "number" || v <= 0 || v > 100)
      throw new Error(`${control.label}: “${text}” is not a share above 0 and up to 100 %.`);
    return v / 100;
  }
  return text;
}

/** The control of one option. */
function FieldControl({
  field: { name, control },
  sizes,
  values,
  set,
}: {
  field: Field;
  sizes: readonly number[];
  values: Readonly<Record<string, string>>;
  set(name: string, value: string): void;
}) {
  const value = values[name] ?? "";
  const choices =
    name === "trials" && sizes.length > 0
      ? [["", "choose"] as const, ...sizes.map((n) => [String(n), String(n)] as const)]
      : control.choices;
  const row = (label: string, body: React.ReactNode) => (
    <div className="row" style={{ justifyContent: "space-between", marginBottom: 6 }}>
      {label}
      {body}
    </div>
  );
  const text = (key: string, label: string, hint: string | undefined) => (
    <Input
      className="num"
      style={{ width: 150 }}
      aria-label={label}
      placeholder={hint}
      value={values[key] ?? ""}
      onChange={(e) => set(key, e.target.value)}
    />
  );
  if (control.control === "switch")
    return row(
      control.label,
      <Checkbox
        aria-label={control.label}
        checked={value === "yes"}
        onChange={(e) => set(name, e.target.checked ? "yes" : "")}
      />,
    );
  if (!choices) return row(control.label, text(name, control.label, control.hint));
  return (
    <>
      {row(
        control.label,
        <Pick
          label={control.label}
          value={value}
          options={[...choices, ...(control.other ? [["other", control.other.words] as const] : [])]}
          set={(v) => set(name, v)}
        />,
      )}
      {control.other &&
        value === "other" &&
        row("distance, half-ranges", text(`${name}:other`, control.other.label, control.other.hint))}
    </>
  );
}

/** The options that the form holds for a family. */
function optionsOfForm(
  family: PlanFamily,
  fields: readonly Field[],
  values: Readonly<Record<string, string>>,
  asked: PlanRequest["terms"],
): PlanOptions {
  // Centre points, replicates, order and seed are the heading's, for this plan as for all others.
  const options: PlanOptions = { family: family.id };
  for (const field of fields) {
    const value = readField(field, values);
    if (value !== undefined) options[field.name] = value;
  }
  if (family.uses?.includes("terms")) options.terms = asked;
  if ((options.possible as unknown) === "asked") {
    // What is asked is then kept clear of the main effects rather than estimated beside them.
    options.terms = "main";
    options.possible = asked;
  }
  return options;
}

/** A plan of a family with its own options, put into the chart beside the others. */
export function OwnPlan({
  study,
  ask: request,
  add,
  busy,
  sentence,
}: {
  study: Study;
  ask: PlanRequest;
  add(options: PlanOptions): void;
  busy: boolean;
  sentence: string | undefined;
}) {
  const [open, setOpen] = useState(false);
  const [family, setFamily] = useState("fraction");
  const [values, setValues] = useState<Record<string, string>>({});
  const [wrong, setWrong] = useState<string | undefined>(undefined);
  const chosen = families.find((f) => f.id === family) ?? families[0];
  const refusal = chosen.unfit(study);
  const fields = fieldsOf(chosen, study);
  // Options that settle the number themselves leave it free to type.
  const settled = chosen.needsTrials && !chosen.needsTrials({ family, ...values });
  const sizes = refusal || chosen.searches || settled ? [] : chosen.sizes(study);
  // A size picked for another family stays typed there, and is no choice here.
  const held = sizes.length > 0 && !sizes.includes(Number(values.trials)) ? { ...values, trials: "" } : values;
  const take = (): void => {
    try {
      const options = optionsOfForm(chosen, fields, held, request.terms);
      setWrong(undefined);
      add(options);
    } catch (error) {
      setWrong(error instanceof Error ? error.message : String(error));
    }
  };
  const trigger = (
    <Button size="small" {...(open ? {} : { onClick: () => setOpen(true) })}>
      Own plan
    </Button>
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
            <Pick label="Plan family" value={family} options={families.map((f) => [f.id, f.label])} set={setFamily} />
          </label>
          {fields.map((field) => (
            <FieldControl
              key={field.name}
              field={field}
              sizes={sizes}
              values={held}
              set={(name, value) => setValues({ ...values, [name]: value })}
            />
          ))}
          {(wrong ?? sentence ?? refusal) && (
            <p className="rowan small" role="alert" style={{ marginBottom: 6 }}>
              {wrong ?? (refusal && unfitOf(refusal)) ?? sentence}
            </p>
          )}
          <Button htmlType="submit" type="primary" disabled={busy || refusal !== undefined}>
            {busy ? "Searching…" : "Put it in the chart"}
          </Button>
        </form>
      }
    >
      {trigger}
    </Popover>
  );
}
