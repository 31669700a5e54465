"use client";
import { Button } from "antd";
import { Fragment, type ReactNode, useRef, useState } from "react";
import {
  edit,
  expectedNoise,
  type Goal,
  goalExample,
  goalText,
  isCounted,
  type Response,
  readGoal,
  readNumber,
  readShare,
  valueUnit,
} from "@/core";
import { DesirabilityCurve } from "@/ui/charts/desirability-curve";
import { useDesk } from "@/ui/desk/store";
import { DraftField, moveInGrid } from "@/ui/parts/draft";
import { figure } from "@/ui/parts/format";
import { Dropdown } from "@/ui/parts/overlays";
import { Pick, PickCell } from "@/ui/parts/pick";
import { ShareField } from "@/ui/parts/share-field";
import { useTroubles } from "@/ui/parts/use-troubles";
import { addResponse, moveRow, pasteResponses, removeResponse } from "./actions";
import { CountedFields } from "./counted-fields";
import css from "./question.module.css";

const AIMS: [Goal["aim"], string][] = [
  ["watch", "watch only"],
  ["raise", "raise"],
  ["lower", "lower"],
  ["hit", "hit a value"],
  ["within", "keep within"],
];

const optional = (v: number | undefined): string => (v === undefined ? "" : String(v));

/** The opened row: knees to drag, weights, bounds, decimals. */
function Opened({ response, tell }: { response: Response; tell(name: string, s: string | undefined): void }) {
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
        {!response.spread && !isCounted(response) && (
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
                commit(
                  [edit(study, ["responses", response.id, "several"], v === "repeats" ? null : v)],
                  `several values of ${response.name}`,
                )
              }
            />
          </label>
        )}
      </div>
      {!response.spread && <CountedFields response={response} tell={tell} />}
    </div>
  );
}

/** What one trial of a share or a count says about itself, worked out from its base; or that a base is wanted. */
function CountedNoise({ response, open }: { response: Response; open(): void }) {
  const noise = expectedNoise(response);
  return (
    <Button
      type="text"
      size="small"
      className={css.worked}
      aria-label={`${noise === undefined ? "counted" : figure(noise, 2)}: noise of ${response.name}, from counting`}
      title={
        noise === undefined
          ? "Say how many pieces a trial has and what share to expect; the noise follows"
          : "Worked out: what counting gives at the share or rate expected"
      }
      onClick={open}
    >
      {noise === undefined ? "counted" : figure(noise, 2)}
    </Button>
  );
}

/** The curve of a response in small; pressed it opens the row. */
const CurveButton = ({ response: r, open, press }: { response: Response; open: boolean; press(): void }) => (
  <button
    type="button"
    style={{ border: 0, background: "none", padding: 0, cursor: "pointer", display: "block" }}
    aria-expanded={open}
    aria-label={`Open the curve of ${r.name}${r.goal.aim === "watch" ? ", watched" : ""}`}
    onClick={press}
  >
    <DesirabilityCurve goal={r.goal} name={r.name} width={98} height={24} />
  </button>
);

/** A change of a share is typed as one: 2 % is 0.02. */
const readChange = (r: Response, text: string): number | null | undefined =>
  r.measured === "share" ? readShare(text) : readNumber(text);

/** The noise of a response, typed; of what is counted it follows. */
const NoiseCell = ({ response, open, children }: { response: Response; open(): void; children: ReactNode }) =>
  isCounted(response) ? <CountedNoise response={response} open={open} /> : children;

/** What is measured: one dense table, edited in place. */
export function ResponseTable() {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const { first, tell } = useTroubles();
  const [open, setOpen] = useState<string | undefined>(undefined);
  /** An aim chosen whose limits are still to be typed. */
  const [asked, setAsked] = useState<Record<string, Goal["aim"]>>({});
  const [fresh, setFresh] = useState(0);
  const table = useRef<HTMLTableElement>(null);
  const known = (r: Response, key: "noise" | "smallest", label: string, row: number, col: number) => (
    <DraftField
      name={`${r.id}:${key}`}
      label={`${r.name} ${label}`}
      mono
      align="right"
      value={optional(r[key])}
      placeholder="–"
      row={row}
      col={col}
      onTrouble={tell}
      check={(t) =>
        typeof readChange(r, t) === "number" || t.trim() === ""
          ? undefined
          : `${r.name}: “${t}” is not a number; type ${label} in ${valueUnit(r) || "the response's units"}.`
      }
      take={(t) => {
        const v = readChange(r, t);
        if (v === undefined || (v !== null && v <= 0))
          return `${r.name}: ${label} “${t}” must be a number above 0${valueUnit(r) ? ` in ${valueUnit(r)}` : ""}, or empty.`;
        return commit([edit(study, ["responses", r.id, key], v)], `${label} of ${r.name}`);
      }}
    />
  );
  return (
    <section id="responses" aria-label="Responses">
      <div className={css.section}>
        <h2>What is measured</h2>
        <span className="small quiet">
          Noise: standard deviation from trial to trial. Smallest: the least change worth finding.
        </span>
      </div>
      <table ref={table} className={css.table} data-grid="responses">
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
          {study.responses.map((r, row) => {
            const aim = asked[r.id] ?? r.goal.aim;
            return (
              <Fragment key={r.id}>
                <tr>
                  <td>
                    <DraftField
                      name={`${r.id}:name`}
                      label={`Response ${row + 1} name`}
                      value={r.name}
                      row={row}
                      col={0}
                      onTrouble={tell}
                      take={(t) =>
                        t.trim() === ""
                          ? "A response needs a name; type one, or remove the row from its menu."
                          : commit([edit(study, ["responses", r.id, "name"], t.trim())], `renamed ${r.name}`)
                      }
                    />
                  </td>
                  <td>
                    <DraftField
                      name={`${r.id}:unit`}
                      label={`${r.name} unit`}
                      value={r.unit ?? ""}
                      placeholder="–"
                      row={row}
                      col={1}
                      take={(t) =>
                        commit([edit(study, ["responses", r.id, "unit"], t.trim() || null)], `unit of ${r.name}`)
                      }
                    />
                  </td>
                  <td>
                    <PickCell<Goal["aim"]>
                      label={`${r.name} aim`}
                      value={aim}
                      options={AIMS}
                      row={row}
                      col={2}
                      set={(next, cell) => {
                        const read =
                          next === "watch"
                            ? ({ ok: true, value: { aim: "watch" } } as const)
                            : r.goal.aim === "watch"
                              ? undefined
                              : readGoal(next, goalText(r.goal), r.goal, r);
                        if (read?.ok) {
                          setAsked(({ [r.id]: _gone, ...rest }) => rest);
                          tell(`${r.id}:aim`, undefined);
                          commit([edit(study, ["responses", r.id, "goal"], read.value)], `aim of ${r.name}`);
                        } else {
                          setAsked({ ...asked, [r.id]: next });
                          tell(
                            `${r.id}:aim`,
                            `${r.name}: type the limits to ${next === "raise" ? "raise it between" : next === "lower" ? "lower it between" : "keep it in"}, like ${goalExample(next, r)}.`,
                          );
                          moveInGrid(cell, 0, 1);
                        }
                      }}
                    />
                  </td>
                  <td>
                    {aim === "watch" ? (
                      <span className="quiet small" style={{ paddingLeft: 6 }}>
                        –
                      </span>
                    ) : (
                      <DraftField
                        name={`${r.id}:goal`}
                        label={`${r.name} limits`}
                        mono
                        value={goalText(r.goal)}
                        placeholder={goalExample(aim, r)}
                        row={row}
                        col={3}
                        onTrouble={tell}
                        check={(t) => {
                          const read = readGoal(aim, t, r.goal, r);
                          return read.ok || t.length < 3 ? undefined : `${r.name}: ${read.sentence}`;
                        }}
                        take={(t) => {
                          const read = readGoal(aim, t, r.goal, r);
                          if (!read.ok) return `${r.name}: ${read.sentence}`;
                          const refused = commit(
                            [edit(study, ["responses", r.id, "goal"], read.value)],
                            `limits of ${r.name}`,
                          );
                          if (!refused) {
                            setAsked(({ [r.id]: _gone, ...rest }) => rest);
                            tell(`${r.id}:aim`, undefined);
                          }
                          return refused;
                        }}
                      />
                    )}
                  </td>
                  <td>
                    <NoiseCell response={r} open={() => setOpen(r.id)}>
                      {known(r, "noise", "noise", row, 4)}
                    </NoiseCell>
                  </td>
                  <td>{known(r, "smallest", "smallest change", row, 5)}</td>
                  <td>
                    <ShareField response={r} />
                  </td>
                  <td>
                    <CurveButton
                      response={r}
                      open={open === r.id}
                      press={() => setOpen(open === r.id ? undefined : r.id)}
                    />
                  </td>
                  <td>
                    <Dropdown
                      trigger={["click"]}
                      placement="bottomRight"
                      menu={{
                        items: [
                          {
                            key: "open",
                            label: open === r.id ? "Close" : "How it is measured, curve, bounds",
                            onClick: () => setOpen(open === r.id ? undefined : r.id),
                          },
                          {
                            key: "up",
                            label: "Move up",
                            disabled: row === 0,
                            onClick: () => commit(moveRow(study, "responses", r.id, -1), `moved ${r.name}`),
                          },
                          {
                            key: "down",
                            label: "Move down",
                            disabled: row === study.responses.length - 1,
                            onClick: () => commit(moveRow(study, "responses", r.id, 1), `moved ${r.name}`),
                          },
                          {
                            key: "remove",
                            label: study.trials.some((t) => t.results[r.id] !== undefined)
                              ? "Remove, with its results"
                              : "Remove",
                            danger: true,
                            onClick: () => commit(removeResponse(study, r.id), `removed ${r.name}`),
                          },
                        ],
                      }}
                    >
                      <Button type="text" size="small" className={css.menu} aria-label={`Menu of ${r.name}`}>
                        ⋯
                      </Button>
                    </Dropdown>
                  </td>
                </tr>
                {open === r.id && (
                  <tr>
                    <td colSpan={9} className={css.open}>
                      <Opened response={r} tell={tell} />
                    </td>
                  </tr>
                )}
              </Fragment>
            );
          })}
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
