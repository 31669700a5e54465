// biome-ignore-all lint/a11y/noAutofocus: a cell that is opened by a key must hold the cursor.
"use client";
import { type CSSProperties, type KeyboardEvent, useEffect, useId, useRef, useState } from "react";
import { useDesk } from "../desk/store";

/** What was typed and refused stays, also over a reload. */
export const draftKey = (study: string, name: string): string => `trialmoor:draft:${study}:${name}`;
export const readDraft = (key: string): string | undefined => {
  try {
    return sessionStorage.getItem(key) ?? undefined;
  } catch {
    return undefined;
  }
};
export const writeDraft = (key: string, text: string | undefined): void => {
  try {
    if (text === undefined) sessionStorage.removeItem(key);
    else sessionStorage.setItem(key, text);
  } catch {
    // Without storage a draft lives as long as the page.
  }
};

export interface DraftProps {
  /** Stable name of the cell within the study. */
  name: string;
  label: string;
  value: string;
  /** Takes the text, or answers in one sentence why not. */
  take(text: string): string | undefined;
  /** Told whenever the sentence changes, so that the table can show it; without it the field shows it itself. */
  onTrouble?(name: string, sentence: string | undefined): void;
  /** Checks while typing, without taking. */
  check?(text: string): string | undefined;
  mono?: boolean;
  align?: "left" | "right";
  width?: number | string;
  placeholder?: string;
  style?: CSSProperties;
  className?: string;
  list?: string;
  onPasteBlock?(text: string): boolean;
  row?: number;
  col?: number;
  autoFocus?: boolean;
  /** Told after Tab took what was typed, so that the cursor can go where the page has no cell yet. */
  onTab?(): void;
}

/** Moves the cursor between cells that carry data-row and data-col inside the nearest grid. */
export function moveInGrid(from: HTMLElement, dRow: number, dCol: number): boolean {
  const grid = from.closest("[data-grid]");
  if (!grid) return false;
  const row = Number(from.dataset.row);
  const col = Number(from.dataset.col);
  const cells = [...grid.querySelectorAll<HTMLElement>("[data-row][data-col]")];
  const wanted = cells
    .filter((c) =>
      dRow === 0
        ? Number(c.dataset.row) === row && Math.sign(Number(c.dataset.col) - col) === dCol
        : Number(c.dataset.col) === col && Math.sign(Number(c.dataset.row) - row) === dRow,
    )
    .sort(
      (a, b) =>
        Math.abs(Number(a.dataset.row) - row) +
        Math.abs(Number(a.dataset.col) - col) -
        Math.abs(Number(b.dataset.row) - row) -
        Math.abs(Number(b.dataset.col) - col),
    )[0];
  if (!wanted) return false;
  // A cell with a list holds the element that takes the keys.
  const taker = wanted instanceof HTMLInputElement ? wanted : wanted.querySelector("input");
  (taker ?? wanted).focus();
  if (wanted instanceof HTMLInputElement && wanted.type === "text") wanted.select();
  return true;
}

/** A text cell: Enter or leaving takes what was typed, Escape gives it up, a refusal keeps the text and says why. */
export function DraftField({
  name,
  label,
  value,
  take,
  check,
  onTrouble,
  mono,
  align,
  width,
  placeholder,
  style,
  className,
  list,
  onPasteBlock,
  row,
  col,
  autoFocus,
  onTab,
}: DraftProps) {
  const study = useDesk((d) => d.id);
  const key = draftKey(study, name);
  const [text, setText] = useState<string | undefined>(undefined);
  const [trouble, setTrouble] = useState<string | undefined>(undefined);
  const described = useId();
  const given = useRef(false);
  const say = (sentence: string | undefined): void => {
    setTrouble(sentence);
    onTrouble?.(name, sentence);
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: a draft left by a reload is looked up once per cell.
  useEffect(() => {
    const left = readDraft(key);
    if (left !== undefined && left !== value) {
      setText(left);
      say(check?.(left));
    }
  }, [key]);
  const leave = (): boolean => {
    if (text === undefined || text === value) {
      setText(undefined);
      writeDraft(key, undefined);
      say(undefined);
      return true;
    }
    const sentence = take(text);
    say(sentence);
    if (sentence === undefined) {
      setText(undefined);
      writeDraft(key, undefined);
      return true;
    }
    writeDraft(key, text);
    return false;
  };
  const onKeyDown = (event: KeyboardEvent<HTMLInputElement>): void => {
    const target = event.currentTarget;
    if (event.key === "Enter") {
      event.preventDefault();
      if (leave()) {
        given.current = true;
        moveInGrid(target, event.shiftKey ? -1 : 1, 0);
      }
    } else if (event.key === "Tab" && !event.shiftKey && onTab && text !== undefined && text !== value) {
      event.preventDefault();
      if (leave()) {
        given.current = true;
        onTab();
      }
    } else if (event.key === "Escape") {
      setText(undefined);
      writeDraft(key, undefined);
      say(undefined);
    } else if (event.key === "ArrowDown" || event.key === "ArrowUp") {
      if (moveInGrid(target, event.key === "ArrowDown" ? 1 : -1, 0)) event.preventDefault();
    } else if (
      event.key === "ArrowRight" &&
      target.selectionStart === target.value.length &&
      target.selectionEnd === target.value.length
    ) {
      if (moveInGrid(target, 0, 1)) event.preventDefault();
    } else if (event.key === "ArrowLeft" && target.selectionStart === 0 && target.selectionEnd === 0) {
      if (moveInGrid(target, 0, -1)) event.preventDefault();
    }
  };
  return (
    <>
      <input
        type="text"
        aria-label={label}
        aria-invalid={trouble !== undefined}
        aria-describedby={trouble ? described : undefined}
        title={trouble}
        className={`draft ${mono ? "num" : ""} ${trouble ? "wrong" : ""} ${className ?? ""}`}
        style={{ textAlign: align ?? "left", width: width ?? "100%", ...style }}
        value={text ?? value}
        placeholder={placeholder}
        list={list}
        data-row={row}
        data-col={col}
        autoComplete="off"
        autoFocus={autoFocus}
        onChange={(e) => {
          setText(e.target.value);
          writeDraft(key, e.target.value);
          say(e.target.value === value ? undefined : check?.(e.target.value));
        }}
        onFocus={(e) => e.currentTarget.select()}
        onBlur={() => {
          if (given.current) given.current = false;
          else leave();
        }}
        onKeyDown={onKeyDown}
        onPaste={(e) => {
          const pasted = e.clipboardData.getData("text");
          if (onPasteBlock && /[\t\n]/.test(pasted.trim()) && onPasteBlock(pasted)) e.preventDefault();
        }}
      />
      {trouble && (
        <span id={described} className={onTrouble ? "hidden" : "trouble"} role={onTrouble ? undefined : "alert"}>
          {trouble}
        </span>
      )}
    </>
  );
}
