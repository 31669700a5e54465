"use client";
import { Input } from "antd";
import { useState } from "react";
import { readNumber } from "@/core";

/** A whole number typed into a small box; what cannot be read stays and says why. */
export function Count({
  label,
  value,
  least,
  most,
  set,
}: {
  label: string;
  value: number;
  least: number;
  most: number;
  set(v: number): void;
}) {
  const [text, setText] = useState<string | undefined>(undefined);
  const read = readNumber(text ?? String(value));
  const wrong = typeof read !== "number" || !Number.isInteger(read) || read < least || read > most;
  return (
    <label>
      {label}
      <Input
        className="num"
        inputMode="numeric"
        value={text ?? String(value)}
        status={wrong ? "error" : ""}
        aria-invalid={wrong}
        title={wrong ? `Type a whole number from ${least} to ${most}.` : undefined}
        onChange={(e) => {
          setText(e.target.value);
          const v = readNumber(e.target.value);
          if (typeof v === "number" && Number.isInteger(v) && v >= least && v <= most) set(v);
        }}
        onBlur={() => !wrong && setText(undefined)}
      />
      {wrong && (
        <span className="rowan small" role="alert">
          {least}–{most}
        </span>
      )}
    </label>
  );
}
