"use client";
import { useEffect, useState } from "react";
import { useDesk } from "@/ui/desk/store";
import { DraftField } from "@/ui/parts/draft";
import { useTroubles } from "@/ui/parts/use-troubles";
import { addResponse, pasteResponses } from "./actions";
import { askedSentence, useAskedAims } from "./asked-aims";
import css from "./question.module.css";
import { ResponseRow } from "./response-row";

/** What is measured: one dense table, edited in place. */
export function ResponseTable() {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const { first, tell } = useTroubles();
  const [open, setOpen] = useState<string | undefined>(undefined);
  const { asked, ask, leave } = useAskedAims();
  // What a reload left unfinished is asked for again.
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, as the table is opened.
  useEffect(() => {
    for (const r of study.responses) if (asked[r.id]) tell(`${r.id}:aim`, askedSentence(r, asked[r.id]));
  }, []);
  const [fresh, setFresh] = useState(0);
  /** The row just named, whose unit is typed next. */
  const [unitOf, setUnitOf] = useState<number | undefined>(undefined);
  useEffect(() => {
    const cell = document.querySelector<HTMLInputElement>(
      `[data-grid="responses"] [data-row="${unitOf}"][data-col="1"]`,
    );
    if (unitOf !== undefined && cell) {
      cell.focus();
      setUnitOf(undefined);
    }
  });
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
              ask={(aim) => ask(r.id, aim)}
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
                autoFocus={fresh > 0 && study.responses.length < 2 && unitOf === undefined}
                onTrouble={tell}
                onPasteBlock={(text) => {
                  const { edits, problems, count, left } = pasteResponses(study, text);
                  if (count > 0) {
                    leave(left);
                    const refused = commit(edits, `pasted ${count} ${count === 1 ? "response" : "responses"}`);
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
                onTab={() => setUnitOf(study.responses.length)}
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
