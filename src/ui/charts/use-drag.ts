"use client";
import { drag } from "d3-drag";
import { select } from "d3-selection";
import { type RefObject, useEffect, useRef } from "react";

/** Where a hand is over a drawing. */
export interface Hand {
  /** Shares of the drawing's width and height; below 0 and above 1 beside it. */
  x: number;
  y: number;
  /** How far it moved since it was last heard of, in the drawing's units. */
  dx: number;
  dy: number;
}

export interface Drag {
  /** Pressed down; without it a press moves at once. */
  start?(at: Hand): void;
  move(at: Hand): void;
  end?(): void;
}

/** What is dragged: drawn shapes and boxes of a page. */
type Draggable = SVGElement | HTMLElement;

const sizeOf = (frame: Draggable): { width: number; height: number } =>
  frame instanceof SVGSVGElement && frame.viewBox.baseVal.width > 0
    ? frame.viewBox.baseVal
    : frame.getBoundingClientRect();

/**
 * Follows a hand, a pen or a finger that drags an element.
 *
 * @param frame the drawing that the hand moves over, where that is not the element itself
 */
export function useDrag<E extends Draggable>(
  target: RefObject<E | null>,
  on: Drag,
  frame: RefObject<Draggable | null> = target,
): void {
  const latest = useRef(on);
  latest.current = on;
  const bound = useRef<E | null>(null);
  // Drawings come and go with what they show. What stays is bound once: a finger on it keeps its hold through renders.
  useEffect(() => {
    const element = target.current;
    if (element === bound.current) return;
    bound.current = element;
    if (!element) return;
    const over = (): Draggable => frame.current ?? element;
    const handAt = ({ x, y, dx, dy }: Hand): Hand => {
      const { width, height } = sizeOf(over());
      return { x: x / width, y: y / height, dx, dy };
    };
    const follow = drag<E, unknown>()
      .container(over as () => SVGSVGElement)
      .on("start", (event: Hand) => {
        const { start, move } = latest.current;
        (start ?? move)(handAt(event));
      })
      .on("drag", (event: Hand) => latest.current.move(handAt(event)))
      .on("end", () => latest.current.end?.());
    select<E, unknown>(element).call(follow);
  });
}
