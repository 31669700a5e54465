// biome-ignore-all lint/a11y/useSemanticElements: drawings and grids drawn in part have no elements of these kinds.
"use client";
import { Button } from "antd";
import { memo } from "react";
import { alphabetOf, type ModelStep, type Study, termName } from "@/core/study";
import { figure, pShown, shareText } from "@/ui/parts/format";
import css from "./model.module.css";

/** What a step was judged by, in a few letters. */
const judgedBy = ({ by, alpha }: ModelStep): string =>
  by === "p" ? ` by p ${alpha ?? ""}` : by === "aicc" ? " by AICc" : by === "bic" ? " by BIC" : "";

/** A step as it stands on the way that can be walked back. */
function labelOf(study: Study, step: ModelStep, first: boolean): string {
  if (step.action === "start") return first ? "at first" : `all ${step.terms.length} it can estimate`;
  const names = (step.moved ?? []).map((t) => termName(alphabetOf(study), t));
  return `${step.action}: ${names.slice(0, 2).join(", ")}${names.length > 2 ? ` and ${names.length - 2} more` : ""}${judgedBy(step)}`;
}

/** p or criterion of a step, and how well the model after it predicts. */
function figureOf({ value, by, r2Predicted }: ModelStep): string {
  const judged = value === undefined || value === null ? "" : `${by === "p" ? pShown(value) : figure(value, 4)} `;
  return `${judged}R² pred ${shareText(r2Predicted ?? null, 2)}`;
}

/** One step; drawn anew only when it changes, since a way may be long. */
const StepRow = memo(function StepRow({
  at,
  current,
  label,
  figures,
  compared,
  walk,
}: {
  at: number;
  current: boolean;
  label: string;
  figures: string;
  compared: number | undefined;
  walk(to: number): void;
}) {
  return (
    <Button
      type="text"
      size="small"
      aria-current={current}
      onClick={() => walk(at)}
      title={compared ? `Compared with ${compared} terms` : "Walk back to this model"}
    >
      <span className="grow">
        {at > 0 ? `${at}. ` : ""}
        {label}
      </span>
      <span className="num quiet">{figures}</span>
    </Button>
  );
});

/** The way a model came to be: any step can be gone back to. */
export function StepsList({
  study,
  steps,
  current,
  walk,
}: {
  study: Study;
  steps: readonly ModelStep[];
  current: number;
  walk(to: number): void;
}) {
  if (steps.length < 2) return null;
  return (
    <div className={css.steps} role="group" aria-label="Steps to this model">
      {steps.map((step, i) => (
        <StepRow
          key={i}
          at={i}
          current={current === i}
          label={labelOf(study, step, i === 0)}
          figures={figureOf(step)}
          compared={step.compared}
          walk={walk}
        />
      ))}
    </div>
  );
}
