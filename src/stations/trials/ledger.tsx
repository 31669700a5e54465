// biome-ignore-all lint/a11y/useFocusableInteractive: one cell at a time has the focus, by the grid that holds them.
// biome-ignore-all lint/a11y/useSemanticElements: drawings and grids drawn in part have no elements of these kinds.
"use client";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useRouter } from "next/navigation";
import {
  Fragment,
  type KeyboardEvent,
  type ReactElement,
  useCallback,
  useEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import {
  counted,
  type Edit,
  edit,
  enterResults,
  hardFactors,
  isCounted,
  matchColumns,
  readNumber,
  readSheet,
  type Study,
  StudyError,
  setupOpenings,
  type Trial,
} from "@/core";
import { useDesk } from "@/ui/desk/store";
import { copyText } from "@/ui/parts/copy-text";
import { settingText } from "@/ui/parts/format";
import { Dropdown } from "@/ui/parts/overlays";
import { Quick } from "@/ui/parts/quick";
import { saveText } from "@/ui/parts/save-text";
import { useStable } from "@/ui/parts/use-stable";
import { historyAddress } from "@/ui/shell/history-address";
import { blockPreview, columnPreview, enterAsRun, readResult } from "./actions";
import { type Column, cellText, columnsOf, headOf, isFigure, pathOf, unitOf } from "./columns";
import type { Given } from "./import-dialog";
import { LeaveOut } from "./leave-out";
import { type EditorActs, FIXED, LedgerRow } from "./ledger-row";
import { blockOf, cellsIn, csvFrom, type Spot, textOfBlock } from "./marked-block";
import { trialMenu } from "./trial-menu";
import css from "./trials.module.css";

type Line =
  | { kind: "band"; wave: string }
  | { kind: "setup"; trial: Trial }
  | { kind: "trial"; trial: Trial; row: number };

/** What the ledger shows from top to bottom: bands of waves and set-ups, and under them the trials. */
function linesOf(study: Study, rows: readonly Trial[], by: "run" | "standard"): Line[] {
  const out: Line[] = [];
  const openings = setupOpenings(study);
  rows.forEach((trial, row) => {
    if (rows[row - 1]?.wave !== trial.wave) out.push({ kind: "band", wave: trial.wave });
    // Only in run order do the trials of one set-up stand together.
    if (by === "run" && openings.has(trial.id)) out.push({ kind: "setup", trial });
    out.push({ kind: "trial", trial, row });
  });
  return out;
}

/** Whether an entry is doubted for the first time: entered once more in a row it is kept. */
function useAskFirst(): (entry: string) => boolean {
  const asked = useRef<string | undefined>(undefined);
  return useCallback((entry) => {
    const again = asked.current === entry;
    asked.current = again ? undefined : entry;
    return !again;
  }, []);
}

/** Keys in a trial's menu, or on the button that opens it, are theirs. */
const ofAnother = ({ target, currentTarget }: KeyboardEvent): boolean =>
  !currentTarget.contains(target as Node) || (target as HTMLElement).closest("button") !== null;

/** The line above a wave's trials. */
function Band({ study, wave, top }: { study: Study; wave: string; top: number }) {
  const about = study.waves.find((w) => w.id === wave);
  const trials = study.trials.filter((t) => t.wave === wave);
  return (
    <div className={css.band} style={{ transform: `translateY(${top}px)` }}>
      <span>
        {about?.name}
        {about?.purpose ? ` · ${about.purpose}` : ""} · {counted(trials.length, "trial")} ·{" "}
        {trials.filter((t) => t.state === "done").length} run
      </span>
    </div>
  );
}

/** A block without headings pasted on a cell: laid over the rows, or, of one column, all of it for one trial. */
function blockGiven(rows: readonly Trial[], columns: readonly Column[], at: Spot, cells: readonly string[][]): Given {
  const column = columns[at.col];
  const results = columns.flatMap((c) => (c.kind === "result" ? [c.response] : []));
  const from = column?.kind === "result" ? results.indexOf(column.response) : 0;
  const block = blockPreview(rows, at.row, results, from, cells);
  const several = column?.kind === "result" && !isCounted(column.response) ? column : undefined;
  const whole = several && rows[at.row] && columnPreview(rows[at.row], several.id, cells);
  if (!whole) return { block };
  // More values than trials, or units of one trial: they belong together.
  return { block, whole, together: several.response.several === "units" || cells.length > rows.length - at.row };
}

/** The line above a set-up's trials: what is set, to be reset even where it shows the same. */
function SetupBand({ study, trial, top }: { study: Study; trial: Trial; top: number }) {
  const waits = trial.state === "planned";
  return (
    <div className={`${css.band} ${css.setup}`} style={{ transform: `translateY(${top}px)` }} data-setup={trial.setup}>
      <span>
        Set-up {trial.setup}
        {hardFactors(study).map((f) => (
          <Fragment key={f.id}>
            {" · "}
            {f.name} {settingText(trial.settings[f.id])} {"unit" in f ? f.unit : ""}
          </Fragment>
        ))}
        {waits && <em>: reset, even if it shows the same</em>}
      </span>
    </div>
  );
}

/** The ledger: every trial over all waves, edited like a spreadsheet. */
export function Ledger({
  by,
  lent,
  onPaste,
  goTo,
}: {
  by: "run" | "standard";
  /** Who runs which trial now, by trial. */
  lent: ReadonlyMap<string, string>;
  onPaste(given: Given): void;
  goTo: string | undefined;
}) {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const id = useDesk((d) => d.id);
  const router = useRouter();
  const lit = useDesk((d) => d.lit);
  const light = useDesk((d) => d.light);
  const columns = useMemo(() => columnsOf(study), [study]);
  const rows = useMemo(() => {
    const waves = new Map(study.waves.map((w, i) => [w.id, i]));
    return [...study.trials].sort((a, b) =>
      by === "run" ? a.order - b.order : (waves.get(a.wave) ?? 0) - (waves.get(b.wave) ?? 0) || a.standard - b.standard,
    );
  }, [study, by]);
  const lines = useMemo(() => linesOf(study, rows, by), [study, rows, by]);
  const lastResult = columns.findLastIndex((c) => c.kind === "result");
  const widthOf = (list: readonly { width: number }[]): number => list.reduce((t, c) => t + c.width, 0);
  const resultsEnd = widthOf(FIXED) + widthOf(columns.slice(0, lastResult + 1));
  const firstResult = columns.findIndex((c) => c.kind === "result");
  const firstWaiting = rows.findIndex((t) => t.state === "planned");
  const [at, setAt] = useState({ row: Math.max(0, firstWaiting), col: Math.max(0, firstResult) });
  /** The other corner of the cells that are marked. */
  const [corner, setCorner] = useState<Spot | undefined>(undefined);
  const block = blockOf(corner ?? at, at);
  const [editing, setEditing] = useState<string | undefined>(undefined);
  const [sentence, setSentence] = useState<string | undefined>(undefined);
  const scroll = useRef<HTMLDivElement>(null);
  const askFirst = useAskFirst();
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => scroll.current,
    estimateSize: (i) => (lines[i].kind === "trial" ? 27 : 25),
    overscan: 16,
  });
  /** A trial about to be left out of models. */
  const [leaving, setLeaving] = useState<Trial | undefined>(undefined);
  const lineOf = (row: number): number => lines.findIndex((l) => l.kind === "trial" && l.row === row);
  const reveal = (row: number): void => virtual.scrollToIndex(lineOf(row), { align: "auto" });

  // biome-ignore lint/correctness/useExhaustiveDependencies: only a new wish to go somewhere moves the cursor.
  useEffect(() => {
    if (!goTo) return;
    const row = rows.findIndex((t) => t.id === goTo.split("#")[0]);
    if (row >= 0) {
      setAt({ row, col: Math.max(0, firstResult) });
      reveal(row);
      scroll.current?.focus();
    }
  }, [goTo]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the view opens where work goes on, once.
  useEffect(() => {
    // Results stay in sight where settings take more than the page has.
    if (scroll.current) scroll.current.scrollLeft = Math.max(0, resultsEnd - scroll.current.clientWidth);
    if (firstWaiting > 8) virtual.scrollToIndex(lineOf(firstWaiting), { align: "center" });
  }, []);

  const refuse = (sentence: string): false => {
    setSentence(sentence);
    return false;
  };
  const take = (trial: Trial, c: Column, text: string): boolean => {
    if (text === cellText(trial, c)) return true;
    let edits: Edit[];
    if (c.kind === "result") {
      const read = readResult(text, c.response);
      if (!read.ok) return refuse(`Trial ${trial.order}, ${c.response.name}: ${read.sentence}`);
      edits = enterResults(study, [{ trial: trial.id, response: c.id, value: read.value }]);
    } else if (c.kind === "covariate") {
      const value = readNumber(text);
      if (value !== null && typeof value !== "number")
        return refuse(`Trial ${trial.order}, ${c.covariate.name}: “${text}” is not a number; type what was measured.`);
      edits = [edit(study, ["trials", trial.id, "covariates", c.id], value)];
    } else if (c.kind === "note") edits = [edit(study, ["trials", trial.id, "note"], text)];
    else {
      const read = enterAsRun(study, trial, c.factor, text);
      if (!read.ok) return refuse(`Trial ${trial.order}, ${read.sentence}`);
      if (read.ask !== undefined && askFirst(`${trial.id}|${c.id}|${text}`))
        return refuse(`Trial ${trial.order}: ${read.ask}`);
      edits = read.edits;
    }
    const refused = commit(edits, `trial ${trial.order}`);
    setSentence(refused);
    return refused === undefined;
  };
  /** Moves the cursor; with `more` the cells from where it stood are marked. */
  const go = (to: Spot, more = false): void => {
    setCorner(more ? (corner ?? at) : undefined);
    setAt(to);
  };
  const move = (dRow: number, dCol: number, more = false): void => {
    const row = Math.max(0, Math.min(rows.length - 1, at.row + dRow));
    const col = Math.max(0, Math.min(columns.length - 1, at.col + dCol));
    go({ row, col }, more);
    reveal(row);
  };
  const lookBack = (path: readonly string[]): void => router.push(historyAddress(id, path));
  const act = (edits: Edit[], what: string): void => setSentence(commit(edits, what));
  const current = rows[at.row];
  const column = columns[at.col];
  const finish = (dRow: number, dCol: number): void => {
    if (editing === undefined || !current || !column) return;
    if (!take(current, column, editing)) return;
    setEditing(undefined);
    scroll.current?.focus();
    move(dRow, dCol);
  };
  const onGridKey = (e: KeyboardEvent): void => {
    if (editing !== undefined || !current || !column) return;
    if (ofAnother(e)) return;
    const arrows: Record<string, [number, number]> = {
      ArrowDown: [1, 0],
      ArrowUp: [-1, 0],
      ArrowLeft: [0, -1],
      ArrowRight: [0, 1],
      PageDown: [15, 0],
      PageUp: [-15, 0],
    };
    if (arrows[e.key]) {
      e.preventDefault();
      move(...arrows[e.key], e.shiftKey);
    } else if (e.key === "Home" || e.key === "End") {
      e.preventDefault();
      if (e.ctrlKey || e.metaKey) move(e.key === "Home" ? -rows.length : rows.length, 0, e.shiftKey);
      else go({ row: at.row, col: e.key === "Home" ? 0 : columns.length - 1 }, e.shiftKey);
    } else if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "a") {
      e.preventDefault();
      setCorner({ row: 0, col: 0 });
      setAt({ row: rows.length - 1, col: columns.length - 1 });
    } else if (e.key === "Escape") {
      setCorner(undefined);
    } else if (e.key === "Enter" || e.key === "F2") {
      e.preventDefault();
      setEditing(cellText(current, column));
    } else if (e.key === "Delete" || e.key === "Backspace") {
      e.preventDefault();
      take(current, column, "");
    } else if (e.key === "ContextMenu" || (e.shiftKey && e.key === "F10")) {
      e.preventDefault();
      scroll.current?.querySelector<HTMLElement>(`[data-trial="${current.order}"] button`)?.click();
    } else if (e.altKey && e.key.toLowerCase() === "h") {
      e.preventDefault();
      lookBack(pathOf(current, column));
    } else if (e.key.length === 1 && !e.ctrlKey && !e.metaKey && !e.altKey) {
      e.preventDefault();
      e.stopPropagation();
      setEditing(e.key);
    }
  };
  const paste = (text: string): void => {
    try {
      const sheet = readSheet(text);
      const headed = matchColumns(study, sheet.rows[0]).some((u) => u.to === "result");
      if (headed) onPaste({ text });
      else if (sheet.rows.length === 1 && sheet.rows[0].length === 1) {
        if (current && column) take(current, column, text.trim());
      } else {
        onPaste(blockGiven(rows, columns, at, sheet.rows));
      }
    } catch (error) {
      if (!(error instanceof StudyError)) throw error;
      setSentence(error.message);
    }
  };
  const press = useStable((row: number, col: number, more: boolean): void => {
    if (
      editing !== undefined &&
      (at.row !== row || at.col !== col) &&
      current &&
      column &&
      !take(current, column, editing)
    )
      return;
    setEditing(undefined);
    go({ row, col }, more);
    scroll.current?.focus({ preventScroll: true });
  });
  const acts: EditorActs = {
    type: useStable((text: string) => setEditing(text)),
    finish: useStable(finish),
    leave: useStable(() => {
      if (editing !== undefined && current && column && take(current, column, editing)) setEditing(undefined);
    }),
    drop: useStable(() => {
      setEditing(undefined);
      setSentence(undefined);
      scroll.current?.focus();
    }),
  };
  const menu = useStable((trial: Trial, button: ReactElement<{ onClick?: () => void }>) => (
    <Dropdown
      trigger={["click"]}
      placement="bottomRight"
      menu={trialMenu(study, trial, column, { set: act, leaveOut: setLeaving, lookBack })}
    >
      {button}
    </Dropdown>
  ));
  const copied = (headed: boolean): string => textOfBlock(rows, columns, block, headed);
  const copy = (headed: boolean): void =>
    copyText(
      copied(headed),
      headed ? "Cells copied under their headings" : "Cells copied",
      "use Ctrl C in the ledger.",
    );
  const total = widthOf(FIXED) + widthOf(columns) + 30;
  return (
    <>
      <div
        ref={scroll}
        className={css.scroll}
        role="grid"
        tabIndex={0}
        aria-label="Ledger"
        aria-rowcount={rows.length}
        aria-colcount={columns.length + 3}
        aria-activedescendant={current ? `cell-${at.row}-${at.col}` : undefined}
        data-testid="ledger"
        onKeyDown={onGridKey}
        onPaste={(e) => {
          if (editing !== undefined) return;
          e.preventDefault();
          paste(e.clipboardData.getData("text"));
        }}
        onCopy={(e) => {
          if (editing !== undefined || !current || !column) return;
          e.preventDefault();
          e.clipboardData.setData("text/plain", copied(false));
        }}
      >
        <div className={css.head} style={{ width: total }} role="row">
          {FIXED.map((f, i) => (
            <div
              key={f.name}
              role="columnheader"
              className={i === 0 ? css.first : undefined}
              style={{ width: f.width, textAlign: f.name === "kind" ? "left" : "right" }}
            >
              {f.name}
            </div>
          ))}
          {columns.map((c) => {
            const name = headOf(c);
            const unit = unitOf(c);
            return (
              <div
                key={`${c.kind}-${c.id}`}
                role="columnheader"
                style={{ width: c.width, textAlign: isFigure(c) ? "right" : "left" }}
                title={unit ? `${name}, ${unit}` : name}
              >
                <span className={css.headname}>{name}</span>
                <span style={{ fontWeight: 400 }}>{unit ?? "\u00a0"}</span>
              </div>
            );
          })}
        </div>
        <div className={css.rows} style={{ height: virtual.getTotalSize(), width: total }}>
          {virtual.getVirtualItems().map((item) => {
            const line = lines[item.index];
            if (line.kind === "band") {
              return <Band key={item.key} study={study} wave={line.wave} top={item.start} />;
            }
            if (line.kind === "setup")
              return <SetupBand key={item.key} study={study} trial={line.trial} top={item.start} />;
            const { trial, row } = line;
            const inBlock = row >= block.top && row <= block.bottom && cellsIn(block) > 1;
            return (
              <LedgerRow
                key={item.key}
                trial={trial}
                row={row}
                columns={columns}
                top={item.start}
                total={total}
                lit={lit === trial.id}
                at={at.row === row ? at.col : undefined}
                from={inBlock ? block.left : undefined}
                to={inBlock ? block.right : undefined}
                editing={at.row === row ? editing : undefined}
                lent={lent.get(trial.id)}
                acts={acts}
                press={press}
                open={setEditing}
                light={light}
                menu={menu}
              />
            );
          })}
        </div>
      </div>
      {leaving && (
        <LeaveOut
          trial={leaving}
          close={() => setLeaving(undefined)}
          leave={(why) =>
            act(
              [edit(study, ["trials", leaving.id, "use"], false), edit(study, ["trials", leaving.id, "why"], why)],
              `left trial ${leaving.order} out`,
            )
          }
        />
      )}
      <div className={css.foot}>
        {sentence ? (
          <span className="rowan" role="alert">
            {sentence}
          </span>
        ) : current && !current.use && current.why ? (
          <span>
            Trial {current.order} is left out of models: {current.why}
          </span>
        ) : cellsIn(block) > 1 ? (
          <span className="row small" style={{ gap: 10 }}>
            {cellsIn(block).toLocaleString("en")} cells marked
            <Quick className="small" onClick={() => copy(false)}>
              copy
            </Quick>
            <Quick className="small" onClick={() => copy(true)}>
              copy with headings
            </Quick>
            <Quick className="small" onClick={() => saveText(csvFrom(copied(true)), "cells.csv")}>
              CSV
            </Quick>
          </span>
        ) : (
          <span className="quiet small">
            Type to enter, Enter moves down, Tab right; repeats with spaces between; a setting typed over is kept as
            run. Paste a block with or without headings; Shift and arrows mark cells to copy.
          </span>
        )}
      </div>
    </>
  );
}
