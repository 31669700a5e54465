"use client";
import { useState } from "react";
import { listed } from "@/core/findings";
import { readNumber } from "@/core/formats";
import { edit, hardFactors, pricesOf, type Study } from "@/core/study";
import { useDesk } from "@/ui/desk/store";
import { DraftField } from "@/ui/parts/draft";
import { LinkButton } from "@/ui/parts/link-button";
import { useTroubles } from "@/ui/parts/use-troubles";
import css from "./question.module.css";

const PARTS = [
  ["trial", "a trial"],
  ["setup", "setting what is hard to change"],
  ["piece", "a piece"],
  ["wave", "a wave"],
] as const;

/** Which costs this study can have: set-ups where a factor is hard to change, pieces where trials have any. */
const asked = (study: Study): (typeof PARTS)[number][] =>
  PARTS.filter(
    ([key]) =>
      study.costs?.[key] !== undefined ||
      (key === "setup"
        ? hardFactors(study).length > 0
        : key !== "piece" || study.responses.some((r) => r.several === "units" || r.of !== undefined)),
  );

/** What trials cost, in the unit that the person counts in: Plan and the report count in it, trials beside. */
export function Costs() {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const [open, setOpen] = useState(false);
  const { first, tell } = useTroubles();
  const { costs } = study;
  if (!costs && !open)
    return (
      <p className="small" style={{ margin: "8px 0" }}>
        <LinkButton className="small" onClick={() => setOpen(true)}>
          what a trial costs, in hours or money
        </LinkButton>
      </p>
    );
  const put = (key: string, value: string | number | null | undefined): string | undefined => {
    const { [key as "unit"]: _before, ...rest } = costs ?? {};
    const next = value === null || value === undefined ? rest : { ...rest, [key]: value };
    return commit([edit(study, ["costs"], Object.keys(next).length === 0 ? null : next)], "what trials cost");
  };
  const hard = hardFactors(study);
  const { unit } = pricesOf(study);
  return (
    <section id="costs" aria-label="What it costs" style={{ margin: "10px 0" }}>
      <div className={css.section}>
        <h2>What it costs</h2>
        <span className="small quiet">
          {unit === undefined
            ? "In one unit of yours, hours or money; what is left empty costs nothing."
            : "Plan and the report count in it; what is left empty costs nothing."}
        </span>
      </div>
      <div className="row small" style={{ gap: 14, flexWrap: "wrap" }}>
        <span className="row" style={{ gap: 4 }}>
          counted in
          <DraftField
            name="costs:unit"
            label="Unit of costs"
            className="alone"
            width={64}
            value={costs?.unit ?? ""}
            placeholder="h"
            onTrouble={tell}
            take={(t) =>
              t.trim().length > 20
                ? "A unit of costs has up to 20 letters."
                : put("unit", t.trim() === "" ? null : t.trim())
            }
          />
        </span>
        {asked(study).map(([key, name]) => {
          const label = key === "setup" && hard.length > 0 ? `setting ${listed(hard.map((f) => f.letter))} anew` : name;
          return (
            <span key={key} className="row" style={{ gap: 4 }}>
              {label}
              <DraftField
                name={`costs:${key}`}
                label={`Cost of ${label}`}
                className="alone"
                mono
                align="right"
                width={64}
                value={costs?.[key] === undefined ? "" : String(costs[key])}
                placeholder="0"
                onTrouble={tell}
                take={(t) => {
                  const v = readNumber(t);
                  if (v === undefined || (v !== null && (v < 0 || v > 1e9)))
                    return `The cost of ${label} “${t}” must be a number from 0 on, or empty.`;
                  return put(key, v);
                }}
              />
            </span>
          );
        })}
      </div>
      {first && (
        <p className={css.wrong} role="alert">
          {first}
        </p>
      )}
    </section>
  );
}
