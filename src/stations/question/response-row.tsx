"use client";
import { Button } from "antd";
import type { ReactNode } from "react";
import { goalExample, goalText, readGoal, readNumber, readShare, shareText } from "@/core/formats";
import { edit, expectedNoise, type Goal, kindOf, proposedLimits, type Response, valueUnit } from "@/core/study";
import { DesirabilityCurve } from "@/ui/charts/desirability-curve";
import { useDesk } from "@/ui/desk/store";
import { DraftField, moveInGrid, readDraft, writeDraft } from "@/ui/parts/draft";
import { figure } from "@/ui/parts/format";
import { LinkButton } from "@/ui/parts/link-button";
import { Dropdown } from "@/ui/parts/overlays";
import { PickCell } from "@/ui/parts/pick";
import { ShareField } from "@/ui/parts/share-field";
import type { useTroubles } from "@/ui/parts/use-troubles";
import { moveRow, removeResponse } from "./actions";
import { askedSentence, limitsKey } from "./asked-aims";
import css from "./question.module.css";
import { Opened, optional } from "./response-opened";

const AIMS: [Goal["aim"], string][] = [
  ["watch", "watch only"],
  ["raise", "raise"],
  ["lower", "lower"],
  ["hit", "hit a value"],
  ["within", "keep within"],
];

/** What one trial of a share or a count says about itself, worked out from its base; or that a base is wanted. */
function CountedNoise({ response, open }: { response: Response; open(): void }) {
  const noise = expectedNoise(response);
  const text =
    noise === undefined ? "counted" : kindOf(response).percent ? `${figure(100 * noise, 2)} %` : figure(noise, 2);
  return (
    <Button
      type="text"
      size="small"
      className={css.worked}
      aria-label={`${text}: noise of ${response.name}, from counting`}
      title={
        noise === undefined
          ? "Say how many pieces a trial has and what share to expect; the noise follows"
          : "Worked out: what counting gives at the share or rate expected"
      }
      onClick={open}
    >
      {text}
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
  kindOf(r).percent ? readShare(text) : readNumber(text);

/** The noise of a response, typed; of what is counted it follows. */
const NoiseCell = ({ response, open, children }: { response: Response; open(): void; children: ReactNode }) =>
  kindOf(response).fields.includes("base") ? <CountedNoise response={response} open={open} /> : children;

interface RowProps {
  response: Response;
  row: number;
  open: boolean;
  /** Opens the row, or closes it. */
  press(): void;
}

interface GoalProps {
  /** An aim chosen whose limits are still to be typed, or the one that stands. */
  aim: Goal["aim"];
  ask(aim: Goal["aim"] | undefined): void;
  tell: ReturnType<typeof useTroubles>["tell"];
}

/** One response in the table, each cell kept as it is left; below it, opened, how it is measured. */
export function ResponseRow({ response: r, row, open, press, aim, ask, tell }: RowProps & GoalProps) {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const known = (key: "noise" | "smallest", label: string, col: number) => (
    <DraftField
      name={`${r.id}:${key}`}
      label={`${r.name} ${label}`}
      mono
      align="right"
      value={kindOf(r).percent && r[key] !== undefined ? shareText(r[key]) : optional(r[key])}
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
    <>
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
            take={(t) => commit([edit(study, ["responses", r.id, "unit"], t.trim() || null)], `unit of ${r.name}`)}
          />
        </td>
        <GoalCells response={r} row={row} aim={aim} ask={ask} tell={tell} />
        <td>
          <NoiseCell response={r} open={press}>
            {known("noise", "noise", 4)}
          </NoiseCell>
        </td>
        <td>{known("smallest", "smallest change", 5)}</td>
        <td>
          <ShareField response={r} />
        </td>
        <td>
          <CurveButton response={r} open={open} press={press} />
        </td>
        <td>
          <ResponseMenu response={r} row={row} open={open} press={press} />
        </td>
      </tr>
      {aim !== r.goal.aim && <OfferedLimits response={r} row={row} aim={aim} ask={ask} tell={tell} />}
      {open && (
        <tr>
          <td colSpan={9} className={css.open}>
            <Opened response={r} tell={tell} />
          </td>
        </tr>
      )}
    </>
  );
}

/** Limits for an aim that has none yet, from what was measured. */
function OfferedLimits({ response: r, aim, ask, tell }: Pick<RowProps, "response" | "row"> & GoalProps) {
  const study = useDesk((d) => d.study);
  const id = useDesk((d) => d.id);
  const commit = useDesk((d) => d.commit);
  const proposed = proposedLimits(study, r, aim);
  if (!proposed) return null;
  const take = (): void => {
    if (commit([edit(study, ["responses", r.id, "goal"], proposed)], `limits of ${r.name}`)) return;
    writeDraft(limitsKey(id, r.id), undefined);
    ask(undefined);
    tell(`${r.id}:aim`, undefined);
    tell(`${r.id}:goal`, undefined);
  };
  return (
    <tr className={css.offer}>
      <td colSpan={3} />
      <td colSpan={6}>
        <LinkButton onClick={take}>Take {goalText(proposed, r)}</LinkButton>
        <span className="quiet">: as good as the best trial so far, never worse than the middle one</span>
      </td>
    </tr>
  );
}

/** Where a response is to go: its aim, then the limits that the aim asks for. */
function GoalCells({ response: r, row, aim, ask, tell }: Pick<RowProps, "response" | "row"> & GoalProps) {
  const study = useDesk((d) => d.study);
  const id = useDesk((d) => d.id);
  const commit = useDesk((d) => d.commit);
  return (
    <>
      <td>
        <PickCell<Goal["aim"]>
          label={`${r.name} aim`}
          value={aim}
          options={AIMS}
          row={row}
          col={2}
          set={(next, cell) => {
            // Limits that were typed before there was an aim to take them for.
            const typed = readDraft(limitsKey(id, r.id));
            const read =
              next === "watch"
                ? ({ ok: true, value: { aim: "watch" } } as const)
                : r.goal.aim === "watch"
                  ? typed === undefined
                    ? undefined
                    : readGoal(next, typed, r.goal, r)
                  : readGoal(next, goalText(r.goal, r), r.goal, r);
            if (read?.ok) {
              writeDraft(limitsKey(id, r.id), undefined);
              ask(undefined);
              tell(`${r.id}:aim`, undefined);
              commit([edit(study, ["responses", r.id, "goal"], read.value)], `aim of ${r.name}`);
            } else {
              ask(next);
              tell(`${r.id}:aim`, askedSentence(r, next));
              // Once the cell of its limits stands.
              setTimeout(() => moveInGrid(cell, 0, 1));
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
            value={goalText(r.goal, r)}
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
              const refused = commit([edit(study, ["responses", r.id, "goal"], read.value)], `limits of ${r.name}`);
              if (!refused) {
                ask(undefined);
                tell(`${r.id}:aim`, undefined);
              }
              return refused;
            }}
          />
        )}
      </td>
    </>
  );
}

/** What may be done with a response as a whole. */
function ResponseMenu({ response: r, row, open, press }: RowProps) {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  return (
    <Dropdown
      trigger={["click"]}
      placement="bottomRight"
      menu={{
        items: [
          {
            key: "open",
            label: open ? "Close" : "How it is measured, curve, bounds",
            onClick: press,
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
            label: study.trials.some((t) => t.results[r.id] !== undefined) ? "Remove, with its results" : "Remove",
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
  );
}
