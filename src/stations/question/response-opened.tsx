"use client";
import { readNumber } from "@/core/formats";
import { edit, type Goal, kindOf, type Response } from "@/core/study";
import { DesirabilityCurve } from "@/ui/charts/desirability-curve";
import { useDesk } from "@/ui/desk/store";
import { DraftField } from "@/ui/parts/draft";
import { Pick } from "@/ui/parts/pick";
import { KindFields } from "./kind-fields";
import css from "./question.module.css";

/** A figure that may be missing, as it stands in its field. */
export const optional = (v: number | undefined): string => (v === undefined ? "" : String(v));

/** The opened row: knees to drag, weights, bounds, decimals. */
export function Opened({ response, tell }: { response: Response; tell(name: string, s: string | undefined): void }) {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const { goal } = response;
  const setGoal = (next: Goal, what: string): string | undefined =>
    commit([edit(study, ["responses", response.id, "goal"], next)], what);
  const weight = (key: "weight" | "lowWeight" | "highWeight", label: string) => (
    <label key={key}>
      {label}
      <DraftField
        name={`${response.id}:${key}`}
        label={`${response.name} ${label}`}
        mono
        width={70}
        align="right"
        value={optional((goal as Record<string, unknown>)[key] as number | undefined) || "1"}
        onTrouble={tell}
        take={(t) => {
          const v = readNumber(t);
          if (typeof v !== "number" || v <= 0 || v > 100)
            return `${response.name}: the weight “${t}” must be a number above 0, such as 1 or 2.`;
          return setGoal({ ...goal, [key]: v } as Goal, `weight of ${response.name}`);
        }}
      />
    </label>
  );
  const bound = (key: "min" | "max", label: string) => (
    <label>
      {label}
      <DraftField
        name={`${response.id}:bound-${key}`}
        label={`${response.name} ${label}`}
        mono
        width={70}
        align="right"
        value={optional(response.bounds?.[key])}
        onTrouble={tell}
        take={(t) => {
          const v = readNumber(t);
          if (v === undefined) return `${response.name}: “${t}” is not a number; leave it empty for no bound.`;
          const { [key]: _old, ...rest } = response.bounds ?? {};
          const bounds = v === null ? rest : { ...rest, [key]: v };
          return commit(
            [edit(study, ["responses", response.id, "bounds"], Object.keys(bounds).length === 0 ? null : bounds)],
            `bounds of ${response.name}`,
          );
        }}
      />
    </label>
  );
  return (
    <div className={css.grid}>
      <div>
        <DesirabilityCurve
          goal={goal}
          name={response.name}
          width={360}
          height={96}
          labels
          onKnee={(key, value) => {
            if (goal.aim === "watch") return;
            const next = { ...goal, [key]: value };
            if (
              next.low < next.high &&
              (!("target" in next) ||
                next.target === undefined ||
                (next.target >= next.low && next.target <= next.high))
            )
              setGoal(next as Goal, `goal of ${response.name}`);
          }}
        />
        <p className="small quiet" style={{ marginTop: 4 }}>
          {goal.aim === "watch"
            ? "Choose an aim to draw a curve."
            : `Drag a knee, move it by arrow keys, or type it above. Desirability over ${response.unit ?? "its value"}.`}
        </p>
      </div>
      <div style={{ width: 210 }}>
        {goal.aim === "raise" || goal.aim === "lower"
          ? weight("weight", "weight of the slope")
          : goal.aim === "watch"
            ? null
            : [weight("lowWeight", "weight below the aim"), weight("highWeight", "weight above the aim")]}
        {bound("min", "physically at least")}
        {bound("max", "physically at most")}
      </div>
      <div style={{ width: 190 }}>
        <label>
          decimals shown
          <DraftField
            name={`${response.id}:decimals`}
            label={`${response.name} decimals`}
            mono
            width={60}
            align="right"
            value={optional(response.decimals)}
            onTrouble={tell}
            take={(t) => {
              const v = readNumber(t);
              if (v === undefined || (v !== null && (!Number.isInteger(v) || v < 0 || v > 10)))
                return `${response.name}: decimals must be a whole number from 0 to 10.`;
              return commit([edit(study, ["responses", response.id, "decimals"], v)], `decimals of ${response.name}`);
            }}
          />
        </label>
        {!response.spread && kindOf(response).several && (
          <label>
            several values are
            <Pick
              label={`${response.name}: several values in one trial`}
              value={response.several ?? "repeats"}
              options={[
                ["repeats", "repeats of a measurement"],
                ["units", "units made"],
              ]}
              set={(v) =>
                commit([edit(study, ["responses", response.id, "several"], v)], `several values of ${response.name}`)
              }
            />
          </label>
        )}
      </div>
      {!response.spread && <KindFields response={response} tell={tell} />}
    </div>
  );
}
