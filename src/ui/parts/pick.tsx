"use client";
import { Select } from "antd";
import { type CSSProperties, useRef } from "react";

/** One of several: a value with the words that stand for it. */
export type Choice<V extends string> = readonly [value: V, text: string];

/** A choice of one among several, named for who does not see where it stands. */
export const Pick = <V extends string>({
  label,
  value,
  options,
  set,
  placeholder,
  style,
  className,
}: {
  label: string;
  value: V | undefined;
  options: readonly Choice<NoInfer<V>>[];
  set(value: NoInfer<V>): void;
  placeholder?: string;
  style?: CSSProperties;
  className?: string;
}) => (
  <Select<V>
    aria-label={label}
    value={value ?? null}
    placeholder={placeholder}
    options={options.map(([v, text]) => ({ value: v, label: text, title: text, "data-choice": v }))}
    onChange={(v) => set(v)}
    popupMatchSelectWidth={false}
    // Lists here are short: drawn whole they can be read, and searched by the browser.
    virtual={options.length > 60}
    {...(style ? { style } : {})}
    {...(className ? { className } : {})}
  />
);

/** A choice as a cell of a table that is walked by keys. */
export function PickCell<V extends string>({
  label,
  value,
  options,
  set,
  row,
  col,
}: {
  label: string;
  value: V;
  options: readonly Choice<NoInfer<V>>[];
  /** @param cell where the choice was made, for who moves on from it */
  set(value: NoInfer<V>, cell: HTMLElement): void;
  row: number;
  col: number;
}) {
  const cell = useRef<HTMLSpanElement>(null);
  return (
    <span ref={cell} data-row={row} data-col={col}>
      <Select<V>
        aria-label={label}
        variant="borderless"
        size="small"
        style={{ width: "100%" }}
        value={value}
        options={options.map(([v, text]) => ({ value: v, label: text, title: text, "data-choice": v }))}
        onChange={(v) => cell.current && set(v, cell.current)}
        popupMatchSelectWidth={false}
        virtual={false}
      />
    </span>
  );
}

/** Things with a name, as choices. */
export const named = (things: readonly { id: string; name: string }[]): Choice<string>[] =>
  things.map((t) => [t.id, t.name]);
