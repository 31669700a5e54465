// biome-ignore-all lint/a11y/noAutofocus: a cell that is opened by a key must hold the cursor.
// biome-ignore-all lint/a11y/useFocusableInteractive: one cell at a time has the focus, by the grid that holds them.
// biome-ignore-all lint/a11y/useKeyWithClickEvents: the keys are the grid's.
// biome-ignore-all lint/a11y/useSemanticElements: drawings and grids drawn in part have no elements of these kinds.
"use client";
import { Button } from "antd";
import { memo, type ReactElement, type ReactNode } from "react";
import type { Trial } from "@/core/study";
import { isStanding } from "@/core/study";
import { settingText } from "@/ui/parts/format";
import { colours } from "@/ui/theme/theme";
import { type Column, cellShown, cellText, isFigure, nameOf } from "./columns";
import css from "./trials.module.css";

/** Columns that every trial has, before its settings. */
export const FIXED = [
  { name: "order", width: 46 },
  { name: "standard", width: 62 },
  { name: "kind", width: 56 },
] as const;

const KINDS: Record<Trial["kind"], string> = {
  factorial: "corner",
  axial: "axial",
  centre: "centre",
  optimal: "chosen",
  screen: "screen",
  repeat: "repeat",
  path: "path",
  confirm: "confirm",
  other: "–",
};

/** What happens to a cell that is typed in. */
export interface EditorActs {
  type(text: string): void;
  /** Takes it and moves on. */
  finish(dRow: number, dCol: number): void;
  leave(): void;
  drop(): void;
}

/** The field of the cell that is typed in. */
function Editor({ label, text, right, acts }: { label: string; text: string; right: boolean; acts: EditorActs }) {
  return (
    <input
      className={css.editor}
      aria-label={label}
      autoFocus
      value={text}
      style={{ textAlign: right ? "right" : "left" }}
      onChange={(e) => acts.type(e.target.value)}
      onBlur={acts.leave}
      onPaste={(e) => {
        const pasted = e.clipboardData.getData("text").trim();
        if (!/[\r\n\t]/.test(pasted)) return;
        // A field would run the lines of a column together: they stay values of their own.
        e.preventDefault();
        const { selectionStart, selectionEnd, value } = e.currentTarget;
        const values = pasted.split(/[\r\n\t]+/).join("; ");
        acts.type(value.slice(0, selectionStart ?? 0) + values + value.slice(selectionEnd ?? value.length));
      }}
      onKeyDown={(e) => {
        if (e.key === "Enter") {
          e.preventDefault();
          e.stopPropagation();
          acts.finish(e.shiftKey ? -1 : 1, 0);
        } else if (e.key === "Tab") {
          e.preventDefault();
          acts.finish(0, e.shiftKey ? -1 : 1);
        } else if (e.key === "ArrowDown" || e.key === "ArrowUp") {
          e.preventDefault();
          e.stopPropagation();
          acts.finish(e.key === "ArrowDown" ? 1 : -1, 0);
        } else if (e.key === "Escape") acts.drop();
        else e.stopPropagation();
      }}
    />
  );
}

/** Left out of models by somebody: what confirms a setpoint is to be judged by them, and never was to be in them. */
const isLeftOut = (trial: Trial): boolean => !trial.use && (trial.kind !== "confirm" || trial.why !== undefined);

/** How a trial stands, in the place of its kind. */
function standing(trial: Trial, lent: string | undefined): { text: string; title?: string | undefined } {
  if (!isStanding(trial)) return { text: trial.state, title: [trial.state, trial.why].filter(Boolean).join(": ") };
  if (isLeftOut(trial)) return { text: "left out", title: trial.why };
  if (lent !== undefined) return { text: "at work", title: `at work: ${lent}` };
  return {
    text: KINDS[trial.kind],
    title: trial.kind === "confirm" && !trial.use ? "judged by the models, and not one of their trials" : undefined,
  };
}

/** One trial's line; drawn anew only when something of it changed. */
export const LedgerRow = memo(function LedgerRow({
  trial,
  row,
  columns,
  top,
  total,
  lit,
  at,
  from,
  to,
  editing,
  lent,
  acts,
  press,
  open,
  light,
  menu,
}: {
  trial: Trial;
  row: number;
  columns: readonly Column[];
  top: number;
  total: number;
  lit: boolean;
  /** The column with the cursor, where it stands in this row. */
  at: number | undefined;
  /** The columns that are marked, where any is in this row. */
  from: number | undefined;
  to: number | undefined;
  /** What is being typed at the cursor. */
  editing: string | undefined;
  /** Who runs it now. */
  lent: string | undefined;
  acts: EditorActs;
  press(row: number, col: number, more: boolean): void;
  open(text: string): void;
  light(trial: string | undefined): void;
  menu(trial: Trial, button: ReactElement<{ onClick?: () => void }>): ReactNode;
}) {
  const off = !isStanding(trial) || isLeftOut(trial);
  const state = standing(trial, lent);
  return (
    <div
      className={css.line}
      role="row"
      aria-rowindex={row + 1}
      data-state={trial.state}
      data-lit={lit ? "yes" : "no"}
      data-off={off ? "yes" : "no"}
      data-trial={trial.order}
      style={{ transform: `translateY(${top}px)`, width: total, minWidth: "100%" }}
      onPointerEnter={() => light(trial.id)}
      onPointerLeave={() => light(undefined)}
    >
      <div className={`${css.num} ${css.first}`} role="gridcell" style={{ width: FIXED[0].width }}>
        {trial.order}
      </div>
      <div className={css.num} role="gridcell" style={{ width: FIXED[1].width, color: "var(--quiet)" }}>
        {trial.standard}
      </div>
      <div
        role="gridcell"
        className={lent === undefined ? undefined : css.lent}
        style={{ width: FIXED[2].width, fontSize: 12, color: colours.beside }}
        title={state.title}
      >
        {state.text}
      </div>
      {columns.map((c, col) => {
        const here = at === col;
        const marked = from !== undefined && to !== undefined && col >= from && col <= to;
        const right = isFigure(c);
        const asRun = c.kind === "setting" ? trial.asRun?.[c.id] : undefined;
        const text = cellShown(trial, c);
        const whole = c.kind === "note" || c.kind === "result" ? cellText(trial, c) : text;
        return (
          <div
            key={`${c.kind}-${c.id}`}
            id={`cell-${row}-${col}`}
            role="gridcell"
            aria-selected={here || marked}
            className={`${css.cell} ${right ? css.num : ""} ${c.kind === "setting" ? css.set : c.kind === "result" ? css.res : ""} ${marked ? css.marked : ""} ${here ? css.chosen : ""} ${asRun !== undefined ? css.asrun : ""}`}
            style={{ width: c.width }}
            title={
              asRun !== undefined
                ? `planned ${trial.settings[c.id]}`
                : c.kind === "note" || whole !== text
                  ? whole.slice(0, 2000)
                  : undefined
            }
            onClick={(e) => press(row, col, e.shiftKey)}
            onDoubleClick={() => open(cellText(trial, c))}
          >
            {here && editing !== undefined ? (
              <Editor label={`Trial ${trial.order}, ${nameOf(c)}`} text={editing} right={right} acts={acts} />
            ) : (
              <>
                {text === "" && c.kind === "result" ? <span style={{ color: colours.waiting }}>·</span> : text}
                {asRun !== undefined && <sup>{settingText(trial.settings[c.id])}</sup>}
              </>
            )}
          </div>
        );
      })}
      <div role="gridcell" style={{ width: 30, padding: 0 }}>
        {menu(
          trial,
          <Button
            type="text"
            size="small"
            tabIndex={-1}
            className={css.menu}
            aria-label={`Menu of trial ${trial.order}`}
          >
            ⋯
          </Button>,
        )}
      </div>
    </div>
  );
});
