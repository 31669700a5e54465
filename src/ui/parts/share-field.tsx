"use client";
import { edit, type Response, readNumber, sharesOf, withShare } from "@/core";
import { useDesk } from "../desk/store";
import { DraftField } from "./draft";

/** The share of one response among those that count, typed. */
export function ShareField({ response, row, col }: { response: Response; row?: number; col?: number }) {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const counted = study.responses.filter((r) => r.goal.aim !== "watch");
  const at = counted.findIndex((r) => r.id === response.id);
  if (at < 0) return <span className="quiet small">watched</span>;
  const text = `${(100 * sharesOf(counted)[at]).toFixed(0)} %`;
  return (
    <DraftField
      name={`${response.id}:share`}
      label={`${response.name}: share of all that counts`}
      value={text}
      mono
      align="right"
      width={58}
      {...(row === undefined ? {} : { row })}
      {...(col === undefined ? {} : { col })}
      take={(typed) => {
        if (typed === text) return undefined;
        const share = readNumber(typed.replace("%", "").trim());
        if (typeof share !== "number" || !(share > 0 && share < 100))
          return `${response.name}: “${typed}” is no share; type a percentage above 0 and below 100.`;
        if (counted.length === 1) return `${response.name} is the only response with a goal: it counts for all.`;
        return commit(
          [...withShare(counted, response.id, share / 100)].map(([id, importance]) =>
            edit(study, ["responses", id, "importance"], importance),
          ),
          `importance of ${response.name}`,
        );
      }}
    />
  );
}
