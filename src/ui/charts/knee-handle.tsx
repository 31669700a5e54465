// biome-ignore-all lint/a11y/useSemanticElements: drawings have no elements of these kinds.
"use client";
import type { RefObject } from "react";
import { colours } from "../theme/theme";
import type { Knee } from "./knees";

/**
 * A knee that is dragged, or moved by arrow keys a fortieth of the goal's width at a time.
 *
 * @param frame the drawing whose width the hand moves over
 */
export function KneeHandle({
  knee,
  name,
  place,
  span,
  frame,
  drag,
  drop,
  cancel,
  put,
}: {
  knee: Knee;
  name: string;
  place: { x: number; y: number; width: number; height: number };
  span: number;
  frame: RefObject<SVGSVGElement | null>;
  /** @param share of the frame's width */
  drag(share: number): void;
  drop(): void;
  cancel(): void;
  put(value: number): void;
}) {
  return (
    <rect
      {...place}
      rx="2"
      fill={colours.raised}
      stroke={colours.moss}
      strokeWidth="2"
      style={{ cursor: "ew-resize" }}
      tabIndex={0}
      role="slider"
      aria-label={`${name}: ${knee.key}`}
      aria-valuenow={knee.at}
      onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
      onPointerMove={(e) => {
        const box = frame.current?.getBoundingClientRect();
        if (e.buttons === 1 && box) drag((e.clientX - box.left) / box.width);
      }}
      onPointerUp={drop}
      onPointerCancel={cancel}
      onKeyDown={(e) => {
        const step = e.key === "ArrowRight" ? 1 : e.key === "ArrowLeft" ? -1 : 0;
        if (step === 0) return;
        e.preventDefault();
        put(Number((knee.at + (step * span) / 40).toPrecision(6)));
      }}
    />
  );
}
