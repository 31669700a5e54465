"use client";
import { costText } from "@/core/findings";
import { pricesOf } from "@/core/study";
import { percent } from "@/ui/parts/format";
import { LinkButton } from "@/ui/parts/link-button";
import css from "./plan.module.css";
import type { Planning } from "./use-planning";

/** How far the searches behind the chart are, and how to stop them. */
export function SearchLine({
  planning: { study, search, own, summaries, first, later, pick },
}: {
  planning: Planning;
}) {
  const saves = later ? (summaries.find((s) => s.id === first?.plan)?.cost ?? later.cost) - later.cost : 0;
  return (
    <div className={css.search} role="status" data-searching={search.running ? "yes" : "no"}>
      {own.running && (
        <span>
          own plan: {own.text ?? "starting"} <LinkButton onClick={own.stop}>stop and keep the best</LinkButton>
        </span>
      )}
      {search.running && !own.running && (
        <span>
          {search.progress?.text || "looking at plans"} · {percent(search.progress?.done ?? 0)}{" "}
          <LinkButton onClick={search.stop}>stop and keep the best</LinkButton>
        </span>
      )}
      {!search.running && search.step.text === "stopped" && (
        <span>
          Stopped; what was found stands. <LinkButton onClick={search.again}>search on</LinkButton>
        </span>
      )}
      {later && (
        <span>
          Found since: {later.label}
          {saves > 0 ? `, cheaper by ${costText(pricesOf(study), saves)}` : ", which does better"}.{" "}
          <LinkButton onClick={() => pick(later.id)}>put it beside</LinkButton>
        </span>
      )}
      {own.trouble && !own.running && <span className="danger">Own plan: {own.trouble}</span>}
      {search.trouble && <span className="danger">{search.trouble}</span>}
    </div>
  );
}
