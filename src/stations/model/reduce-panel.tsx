"use client";
import { Button, Input } from "antd";
import { memo, useState } from "react";
import type { Criterion, Direction } from "@/core/model";
import { Popover } from "@/ui/parts/overlays";
import { Pick } from "@/ui/parts/pick";
import type { Reducing } from "./actions";

export interface ReduceProps {
  run(how: Reducing, everywhere: boolean): void;
  /** Other responses may be reduced at the same press. */
  several: boolean;
  /** A wave carried some of the factors on. */
  carried: boolean;
  /** The level that goes with the study's confidence. */
  usual: number;
}

/** What to reduce by, open as it is first drawn; the steps stay below the ladder. */
export const ReducePanel = memo(function ReducePanel({ run, several, carried, usual }: ReduceProps) {
  const [direction, setDirection] = useState<Direction>("backward");
  const [by, setBy] = useState<Criterion>("p");
  const [alpha, setAlpha] = useState(String(usual));
  const [from, setFrom] = useState<Reducing["from"]>("asked");
  const [open, setOpen] = useState(true);
  const a = Number(alpha.replace(",", "."));
  const wrong = by === "p" && !(a > 0 && a < 1);
  const pick = <T extends string>(
    name: string,
    now: T,
    set: (v: T) => void,
    options: readonly (readonly [T, string])[],
  ) => (
    <label className="row" style={{ justifyContent: "space-between", marginBottom: 6 }}>
      {name}
      <Pick label={`reduce ${name}`} value={now} options={options} set={set} />
    </label>
  );
  const trigger = <Button {...(open ? {} : { onClick: () => setOpen(true) })}>Reduce</Button>;
  // The panel is built when it is asked for, so that taking terms in and out does not pay for it.
  if (!open) return trigger;
  return (
    <Popover
      trigger="click"
      placement="bottomLeft"
      open={open}
      onOpenChange={setOpen}
      content={
        <div style={{ width: 250 }}>
          {pick("way", direction, setDirection, [
            ["backward", "backward"],
            ["forward", "forward"],
            ["both", "both ways"],
          ])}
          {pick("by", by, setBy, [
            ["p", "p"],
            ["aicc", "AICc"],
            ["bic", "BIC"],
          ])}
          {by === "p" && (
            <label className="row" style={{ justifyContent: "space-between", marginBottom: 6 }}>
              α to stay
              <Input
                className="num"
                style={{ width: 80, textAlign: "right" }}
                value={alpha}
                status={wrong ? "error" : ""}
                aria-invalid={wrong}
                onChange={(e) => setAlpha(e.target.value)}
              />
            </label>
          )}
          {pick("among", from, setFrom, [
            ["asked", "what was asked"],
            ...(carried ? ([["carried", "the factors carried on"]] as const) : []),
            ["all", "all it can estimate"],
            ["model", "terms in the model"],
          ])}
          {wrong && (
            <p className="danger small" role="alert">
              α must lie between 0 and 1, such as 0.05.
            </p>
          )}
          <div className="row">
            {[false, ...(several ? [true] : [])].map((everywhere) => (
              <Button
                key={String(everywhere)}
                type={everywhere ? "default" : "primary"}
                disabled={wrong}
                onClick={() => {
                  setOpen(false);
                  run({ direction, by, alpha: by === "p" ? a : usual, from }, everywhere);
                }}
              >
                {everywhere ? "Reduce all responses" : "Reduce"}
              </Button>
            ))}
          </div>
        </div>
      }
    >
      {trigger}
    </Popover>
  );
});
