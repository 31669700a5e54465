"use client";
import { Button, Checkbox, Form, type FormInstance, Input } from "antd";
import { useState } from "react";
import { messageText } from "@/core/findings";
import { readNumber } from "@/core/formats";
import {
  commonOptions,
  controls,
  families,
  type OptionControl,
  type PlanFamily,
  type PlanOptions,
  type PlanRequest,
  termOptions,
} from "@/core/plans";
import type { Study } from "@/core/study";
import { Popover } from "@/ui/parts/overlays";
import { Pick } from "@/ui/parts/pick";
import css from "./plan.module.css";

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

/** What the form holds: texts, and switches. */
type Values = Readonly<Record<string, string | boolean | undefined>>;

const textOf = (values: Values, name: string): string => String(values[name] ?? "").trim();

/**
 * What was typed, as the option means it; undefined leaves it out.
 * @throws Error with the sentence that says what would do
 */
function readField({ name, control }: Field, values: Values): unknown {
  const text = textOf(values, name);
  if (control.other && text === "other") {
    const typed = readNumber(textOf(values, `${name}:other`));
    if (typeof typed !== "number" || typed <= 0)
      throw new Error(`${control.other.label}: type a number above 0, such as ${control.other.hint}.`);
    return typed;
  }
  if (control.control === "switch") return values[name] === true ? true : undefined;
  if (text === "") return undefined;
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

/** The control of one option; what cannot be read is said below it. */
function FieldControl({ field, sizes, values }: { field: Field; sizes: readonly number[]; values: Values }) {
  const { name, control } = field;
  const choices =
    name === "trials" && sizes.length > 0
      ? [["", "choose"] as const, ...sizes.map((n) => [String(n), String(n)] as const)]
      : control.choices;
  const form = Form.useFormInstance();
  const rules = [{ validator: async () => void readField(field, form.getFieldsValue(true) as Values) }];
  const text = (of: string, label: string, hint: string | undefined, shown = label) => (
    <Form.Item name={of} label={shown} rules={rules} validateTrigger="onSubmit">
      <Input className="num" style={{ width: 150 }} aria-label={label} placeholder={hint} />
    </Form.Item>
  );
  if (control.control === "switch")
    return (
      <Form.Item name={name} label={control.label} valuePropName="checked">
        <Checkbox aria-label={control.label} />
      </Form.Item>
    );
  if (!choices) return text(name, control.label, control.hint);
  const { other } = control;
  return (
    <>
      <Form.Item name={name} label={control.label} trigger="set" initialValue="">
        <Pick
          label={control.label}
          value={undefined}
          options={[...choices, ...(other ? [["other", other.words] as const] : [])]}
          set={() => undefined}
        />
      </Form.Item>
      {other &&
        textOf(values, name) === "other" &&
        text(`${name}:other`, other.label, other.hint, "distance, half-ranges")}
    </>
  );
}

/** The options that the form holds for a family. */
function optionsOfForm(
  family: PlanFamily,
  fields: readonly Field[],
  values: Values,
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

interface OwnPlanProps {
  study: Study;
  ask: PlanRequest;
  add(options: PlanOptions): void;
  busy: boolean;
  sentence: string | undefined;
}

/** The options of a plan of one's own; what was typed stays while the form is away. */
function OwnPlanForm({
  study,
  ask: request,
  add,
  busy,
  sentence,
  form,
  family,
  setFamily,
}: OwnPlanProps & {
  form: FormInstance<Record<string, string | boolean | undefined>>;
  family: string;
  setFamily(family: string): void;
}) {
  const values: Values = Form.useWatch([], form) ?? {};
  const chosen = families.find((f) => f.id === family) ?? families[0];
  const refusal = chosen.unfit(study);
  const fields = fieldsOf(chosen, study);
  // Options that settle the number themselves leave it free to type.
  const settled = chosen.needsTrials && !chosen.needsTrials({ family, ...values });
  const sizes = refusal || chosen.searches || settled ? [] : chosen.sizes(study);
  const take = (typed: Values): void => add(optionsOfForm(chosen, fields, typed, request.terms));
  return (
    <Form
      form={form}
      className={css.ownPlan}
      layout="horizontal"
      size="small"
      colon={false}
      requiredMark={false}
      labelWrap
      scrollToFirstError={{ focus: true }}
      onFinish={take}
    >
      <Form.Item label="family">
        <Pick
          label="Plan family"
          value={family}
          options={families.map((f) => [f.id, f.label])}
          set={(next) => {
            setFamily(next);
            // A size picked for another family is no choice here.
            form.setFieldValue("trials", "");
          }}
        />
      </Form.Item>
      {fields.map((field) => (
        <FieldControl key={`${family} ${field.name}`} field={field} sizes={sizes} values={values} />
      ))}
      {(sentence ?? refusal) && (
        <p className="danger small" role="alert" style={{ marginBottom: 6 }}>
          {(refusal && messageText("unfits", refusal)) ?? sentence}
        </p>
      )}
      <Button htmlType="submit" type="primary" disabled={busy || refusal !== undefined}>
        {busy ? "Searching…" : "Put it in the chart"}
      </Button>
    </Form>
  );
}

/** A plan of a family with its own options, put into the chart beside the others. */
export function OwnPlan(props: OwnPlanProps) {
  const [open, setOpen] = useState(false);
  const [asked, setAsked] = useState(false);
  const [family, setFamily] = useState("fraction");
  const [form] = Form.useForm<Record<string, string | boolean | undefined>>();
  const trigger = (
    <Button
      size="small"
      {...(asked
        ? {}
        : {
            onClick: () => {
              setAsked(true);
              setOpen(true);
            },
          })}
    >
      Own plan
    </Button>
  );
  // The form is built when it is first asked for.
  if (!asked) return trigger;
  return (
    <Popover
      open={open}
      onOpenChange={setOpen}
      trigger="click"
      placement="bottomRight"
      destroyOnHidden
      content={<OwnPlanForm {...props} form={form} family={family} setFamily={setFamily} />}
    >
      {trigger}
    </Popover>
  );
}
