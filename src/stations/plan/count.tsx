"use client";
import { Input } from "antd";
import { useState } from "react";
import { readNumber } from "@/core/formats";

/**
 * A number typed into a small box, whole unless said; what cannot be read stays and says why. Where it may be left
 * open, an empty box leaves it so.
 */
export function Count({
  label,
  value,
  least,
  most,
  set,
  open,
  whole = true,
}: {
  label: string;
  value: number | undefined;
  least: number;
  most: number;
  set(v: number | undefined): void;
  /** Words for a number left open. */
  open?: string;
  whole?: boolean;
}) {
  const [text, setText] = useState<string | undefined>(undefined);
  const shown = text ?? (value === undefined ? "" : String(value));
  const fits = (v: ReturnType<typeof readNumber>): v is number =>
    typeof v === "number" && (!whole || Number.isInteger(v)) && v >= least && v <= most;
  const left = (typed: string): boolean => open !== undefined && typed.trim() === "";
  const wrong = !left(shown) && !fits(readNumber(shown));
  return (
    <label>
      {label}
      <Input
        className="num"
        inputMode="numeric"
        value={shown}
        placeholder={open}
        style={open === undefined ? undefined : { width: 60 }}
        status={wrong ? "error" : ""}
        aria-invalid={wrong}
        title={wrong ? `Type a ${whole ? "whole number" : "number"} from ${least} to ${most}.` : undefined}
        onChange={(e) => {
          setText(e.target.value);
          const v = readNumber(e.target.value);
          if (left(e.target.value)) set(undefined);
          else if (fits(v)) set(v);
        }}
        onBlur={() => !wrong && setText(undefined)}
      />
      {wrong && (
        <span className="danger small" role="alert">
          {least}–{most}
        </span>
      )}
    </label>
  );
}
