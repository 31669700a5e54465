"use client";
import { Segmented } from "antd";
import { bendable, requestedTerms, type TermSetName } from "@/core";
import { Count } from "./count";
import css from "./plan.module.css";
import { TermPicker } from "./term-picker";
import type { Planning } from "./use-planning";

const ASKS: [TermSetName, string][] = [
  ["main", "main effects"],
  ["main+2fi", "+ interactions"],
  ["quadratic", "+ curvature"],
];

/** What a plan must tell, and what it may cost. */
export function Asks({ planning: { study, request, ask } }: { planning: Planning }) {
  const { terms } = request;
  return (
    <div className={css.asks}>
      <span className="quiet">must tell</span>
      <Segmented<string>
        aria-label="What a plan must tell"
        value={typeof terms === "string" ? terms : ""}
        options={ASKS.filter(([t]) => t !== "quadratic" || bendable(study)).map(([value, label]) => ({ value, label }))}
        onChange={(t) => ask({ terms: t as TermSetName })}
      />
      <TermPicker
        study={study}
        terms={requestedTerms(study, request)}
        active={typeof terms !== "string"}
        set={(picked) => ask({ terms: picked })}
      />
      <Count label="up to" value={request.budget} least={4} most={1024} set={(budget) => ask({ budget })} />
      <Count
        label="replicates"
        value={request.replicates}
        least={1}
        most={16}
        set={(replicates) => ask({ replicates })}
      />
      <Count label="centre points" value={request.centre} least={0} most={24} set={(centre) => ask({ centre })} />
      <Count label="blocks" value={request.blocks} least={1} most={16} set={(blocks) => ask({ blocks })} />
    </div>
  );
}
