// biome-ignore-all lint/a11y/useSemanticElements: drawings have no elements of these kinds.
"use client";
import { type RefObject, useRef } from "react";
import { colours } from "../theme/theme";
import type { Knee } from "./knees";
import { useDrag } from "./use-drag";

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
  put(value: number): void;
}) {
  const handle = useRef<SVGRectElement>(null);
  useDrag(handle, { start: () => undefined, move: (at) => drag(at.x), end: drop }, frame);
  return (
    <rect
      ref={handle}
      {...place}
      rx="2"
      fill={colours.raised}
      stroke={colours.success}
      strokeWidth="2"
      style={{ cursor: "ew-resize" }}
      tabIndex={0}
      role="slider"
      aria-label={`${name}: ${knee.key}`}
      aria-valuenow={knee.at}
      onKeyDown={(e) => {
        const step = e.key === "ArrowRight" ? 1 : e.key === "ArrowLeft" ? -1 : 0;
        if (step === 0) return;
        e.preventDefault();
        put(Number((knee.at + (step * span) / 40).toPrecision(6)));
      }}
    />
  );
}
