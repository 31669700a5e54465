// biome-ignore-all lint/a11y/useFocusableInteractive: one cell at a time has the focus, by the grid that holds them.
// biome-ignore-all lint/a11y/useSemanticElements: drawings and grids drawn in part have no elements of these kinds.
"use client";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useRouter } from "next/navigation";
import { type KeyboardEvent, type ReactElement, useEffect, useMemo, useRef, useState } from "react";
import { matchColumns, readSheet, rowsText } from "@/core/formats";
import { type Edit, edit, StudyError, type Trial } from "@/core/study";
import { useDesk, useDeskStore } from "@/ui/desk/store";
import { Dropdown } from "@/ui/parts/overlays";
import { useStable } from "@/ui/parts/use-stable";
import { historyAddress } from "@/ui/shell/history-address";
import { Band, linesOf, SetupBand } from "./bands";
import { type Column, cellText, columnsOf, pathOf, wholeFrom } from "./columns";
import { blockGiven, entryOf } from "./entry";
import type { Given } from "./import-dialog";
import { LeaveOut } from "./leave-out";
import { LedgerFoot } from "./ledger-foot";
import { LedgerHead } from "./ledger-head";
import { beginsUnasked, ledgerKey } from "./ledger-keys";
import { type EditorActs, FIXED, LedgerRow } from "./ledger-row";
import { blockOf, cellsIn, rowsOfBlock, type Spot } from "./marked-block";
import { trialMenu } from "./trial-menu";
import css from "./trials.module.css";
import { useLedgerFocus } from "./use-ledger-focus";

/**
 * Takes a text for a cell, and tells what is wrong with it; what is doubted is kept where a person, told so, enters it
 * once more.
 */
function useTaking(tell: (sentence: string | undefined) => void) {
  const desk = useDeskStore();
  const asked = useRef<string | undefined>(undefined);
  return (trialId: string, c: Column, text: string, entered: boolean): boolean => {
    // As the study stands now: a cell that was just taken is left as well, before the page is drawn anew.
    const { study, commit } = desk.getState();
    const trial = study.trials.find((t) => t.id === trialId);
    if (!trial || text === cellText(trial, c)) return true;
    const entry = entryOf(study, trial, c, text);
    const once = `${trial.id}|${c.id}|${text}`;
    const again = entered && asked.current === once;
    if (entered) asked.current = again ? undefined : once;
    const sentence = !entry.ok
      ? entry.sentence
      : entry.ask !== undefined && !again
        ? entry.ask
        : commit(entry.edits, `trial ${trial.order}`);
    tell(sentence);
    return sentence === undefined;
  };
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
  /** Somebody works here: from then on every letter is the ledger's. */
  const engaged = useRef(false);
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
    scroll.current?.scrollTo(wholeFrom([...FIXED.slice(1), ...columns], resultsEnd - scroll.current.clientWidth), 0);
    if (firstWaiting > 8) virtual.scrollToIndex(lineOf(firstWaiting), { align: "center" });
  }, []);

  const stationAwaited = useLedgerFocus(scroll);

  const taking = useTaking(setSentence);
  const take = (trial: Trial, c: Column, text: string, entered = true): boolean => taking(trial.id, c, text, entered);
  /** Moves the cursor; with `more` the cells from where it stood are marked. */
  const go = (to: Spot, more = false): void => {
    engaged.current = true;
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
    const begin = (text: string): void => {
      engaged.current = true;
      setEditing(text);
    };
    ledgerKey(e, {
      move,
      markAll() {
        setCorner({ row: 0, col: 0 });
        setAt({ row: rows.length - 1, col: columns.length - 1 });
      },
      unmark: () => setCorner(undefined),
      open: (typed) => begin(typed ?? cellText(current, column)),
      begins: (key) => engaged.current || (beginsUnasked(key) && !stationAwaited()),
      empty: () => take(current, column, ""),
      menu: () => scroll.current?.querySelector<HTMLElement>(`[data-trial="${current.order}"] button`)?.click(),
      history: () => lookBack(pathOf(current, column)),
    });
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
      !take(current, column, editing, false)
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
      if (editing !== undefined && current && column && take(current, column, editing, false)) setEditing(undefined);
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
  const copied = (headed: boolean): string[][] => rowsOfBlock(rows, columns, block, headed);
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
          e.clipboardData.setData("text/plain", rowsText(copied(false), "\t"));
        }}
      >
        <LedgerHead columns={columns} width={total} />
        <div className={css.rows} style={{ height: virtual.getTotalSize(), width: total, minWidth: "100%" }}>
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
      <LedgerFoot sentence={sentence} trial={current} marked={cellsIn(block)} copied={copied} />
    </>
  );
}
