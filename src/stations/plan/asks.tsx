"use client";
import { Segmented } from "antd";
import { listed } from "@/core/findings";
import { bendable, requestedTerms } from "@/core/plans";
import { hardFactors, MOST_RATIO, type TermSetName } from "@/core/study";
import { figure } from "@/ui/parts/format";
import { Count } from "./count";
import css from "./plan.module.css";
import { TermPicker } from "./term-picker";
import type { Planning } from "./use-planning";

const ASKS: [TermSetName, string][] = [
  ["main", "main effects"],
  ["main+2fi", "+ interactions"],
  ["quadratic", "+ curvature"],
];

const COUNTS = [
  ["budget", "up to", 4, 1024],
  ["replicates", "replicates", 1, 16],
  ["centre", "centre points", 0, 24],
  ["blocks", "blocks", 1, 16],
] as const;

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
      {COUNTS.map(([key, label, least, most]) => (
        <Count
          key={key}
          label={label}
          value={request[key]}
          least={least}
          most={most}
          set={(v) => v !== undefined && ask({ [key]: v })}
        />
      ))}
    </div>
  );
}

const SETUP_COUNTS = [
  ["setups", "set-ups, up to", 1024, "open"],
  ["setupSize", "trials of one, up to", 1024, "any"],
  ["eta", "variance between ÷ within", MOST_RATIO, "1"],
] as const;

/** How often hard factors may be set, for how many trials at most, and how much set-ups vary. */
export function SetupAsks({ planning: { study, request, ask } }: { planning: Planning }) {
  const hard = hardFactors(study);
  if (hard.length === 0) return null;
  return (
    <fieldset className={css.asks} aria-label="Set-ups of the hard factors">
      <span className="quiet" title={hard.map((f) => f.name).join(", ")}>
        {listed(hard.map((f) => f.letter))} {hard.length === 1 ? "stays" : "stay"} set for several trials:
      </span>
      {SETUP_COUNTS.map(([key, label, most, open]) => (
        <Count
          key={key}
          label={label}
          value={request[key]}
          least={key === "eta" ? 0 : 1}
          most={most}
          open={open}
          whole={key !== "eta"}
          set={(v) => ask({ [key]: v })}
        />
      ))}
      {study.setupCost !== undefined && study.setupCost > 0 && (
        <span className="quiet">a set-up costs {figure(study.setupCost)} trials</span>
      )}
      <span className="quiet" title="Plans that set hard factors as often as the run order asks: what resetting buys">
        ◆ reset
      </span>
    </fieldset>
  );
}
