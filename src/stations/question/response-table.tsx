"use client";
import { useState } from "react";
import type { Goal } from "@/core";
import { useDesk } from "@/ui/desk/store";
import { DraftField } from "@/ui/parts/draft";
import { useTroubles } from "@/ui/parts/use-troubles";
import { addResponse, pasteResponses } from "./actions";
import css from "./question.module.css";
import { ResponseRow } from "./response-row";

/** What is measured: one dense table, edited in place. */
export function ResponseTable() {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const { first, tell } = useTroubles();
  const [open, setOpen] = useState<string | undefined>(undefined);
  /** An aim chosen whose limits are still to be typed. */
  const [asked, setAsked] = useState<Record<string, Goal["aim"]>>({});
  const [fresh, setFresh] = useState(0);
  return (
    <section id="responses" aria-label="Responses">
      <div className={css.section}>
        <h2>What is measured</h2>
        <span className="small quiet">
          Noise: standard deviation from trial to trial. Smallest: the least change worth finding.
        </span>
      </div>
      <table className={css.table} data-grid="responses">
        <colgroup>
          <col style={{ width: "21%" }} />
          <col style={{ width: "7%" }} />
          <col style={{ width: "12%" }} />
          <col style={{ width: "22%" }} />
          <col style={{ width: "9%" }} />
          <col style={{ width: "9%" }} />
          <col style={{ width: 72 }} />
          <col style={{ width: 104 }} />
          <col style={{ width: 34 }} />
        </colgroup>
        <thead>
          <tr>
            <th>Response</th>
            <th>Unit</th>
            <th>Aim</th>
            <th>Limits</th>
            <th style={{ textAlign: "right" }}>Noise</th>
            <th style={{ textAlign: "right" }}>Smallest</th>
            <th>Importance</th>
            <th>Desirability</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {study.responses.map((r, row) => (
            <ResponseRow
              key={r.id}
              response={r}
              row={row}
              open={open === r.id}
              press={() => setOpen(open === r.id ? undefined : r.id)}
              aim={asked[r.id] ?? r.goal.aim}
              ask={(aim) =>
                setAsked(({ [r.id]: _before, ...rest }) => (aim === undefined ? rest : { ...rest, [r.id]: aim }))
              }
              tell={tell}
            />
          ))}
          <tr>
            <td colSpan={2}>
              <DraftField
                key={fresh}
                name="new-response"
                label="New response name"
                value=""
                placeholder="Add a response: type its name"
                row={study.responses.length}
                col={0}
                autoFocus={fresh > 0 && study.responses.length < 2}
                onTrouble={tell}
                onPasteBlock={(text) => {
                  const { edits, problems, count, asked: wanted } = pasteResponses(study, text);
                  if (count > 0) {
                    const refused = commit(edits, `pasted ${count} ${count === 1 ? "response" : "responses"}`);
                    if (!refused) setAsked({ ...asked, ...wanted });
                    tell("paste", refused ?? (problems.length > 0 ? problems.join(" ") : undefined));
                  } else
                    tell(
                      "paste",
                      problems[0] ?? "No rows were found in what was pasted; copy the cells with names first.",
                    );
                  return true;
                }}
                take={(t) => {
                  if (t.trim() === "") return undefined;
                  const refused = commit(addResponse(study, t.trim()), `added ${t.trim()}`);
                  if (!refused) setFresh(fresh + 1);
                  return refused;
                }}
              />
            </td>
            <td colSpan={7} className="small quiet">
              or paste rows: name, unit, aim, limits, noise, smallest
            </td>
          </tr>
        </tbody>
      </table>
      {first && (
        <p className={css.wrong} role="alert">
          {first}
        </p>
      )}
    </section>
  );
}
