"use client";
import { listed } from "@/core/findings";
import { readNumber } from "@/core/formats";
import { importancePercents, withImportanceShare } from "@/core/model";
import { edit, type Response } from "@/core/study";
import { useDesk } from "../desk/store";
import { DraftField } from "./draft";
import { say } from "./say";

/** The largest weight that is kept. */
const MOST = 100;

/** How much one response counts among those that have a goal, typed as a weight like 5 or as a share like 40 %. */
export function ShareField({ response, row, col }: { response: Response; row?: number; col?: number }) {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const counted = study.responses.filter((r) => r.goal.aim !== "watch");
  const at = counted.findIndex((r) => r.id === response.id);
  if (at < 0) return <span className="quiet small">watched</span>;
  const text = String(Number(response.importance.toPrecision(3)));
  const take = (typed: string): string | undefined => {
    const share = typed.includes("%");
    const value = readNumber(typed.replace("%", "").trim());
    if (typeof value !== "number" || !(value > 0 && value < (share ? 100 : MOST + 1e-9)))
      return `${response.name}: “${typed}” is neither a weight above 0, up to ${MOST}, nor a share like 40 %.`;
    if (share && counted.length === 1) return `${response.name} is the only response with a goal: it counts for all.`;
    const weights = share ? withImportanceShare(counted, response.id, value / 100) : new Map([[response.id, value]]);
    const refused = commit(
      [...weights].map(([id, importance]) => edit(study, ["responses", id, "importance"], importance)),
      `importance of ${response.name}`,
    );
    // What one gains the others give: said, not left to be noticed.
    const now = counted.map((r) => ({ ...r, importance: weights.get(r.id) ?? r.importance }));
    if (refused === undefined && now.length > 1)
      say(`Counted now: ${listed(importancePercents(now).map((s, i) => `${now[i].name} ${s} %`))}.`, "done");
    return refused;
  };
  return (
    <span className="row" style={{ gap: 4, flexWrap: "nowrap" }}>
      <DraftField
        name={`${response.id}:share`}
        label={`${response.name}: importance`}
        value={text}
        mono
        align="right"
        width={36}
        {...(row === undefined ? {} : { row })}
        {...(col === undefined ? {} : { col })}
        take={take}
      />
      <span className="quiet small" title="Its share of all that counts">
        {importancePercents(counted)[at]} %
      </span>
    </span>
  );
}
