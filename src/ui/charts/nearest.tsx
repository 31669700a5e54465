"use client";
import { Delaunay } from "d3-delaunay";
import { pointer } from "d3-selection";
import { useMemo, useState } from "react";
import type { Box } from "./marks/axis";

/** Frozen defaults of the mark: how far from a point, in pixels, the hand still means it. */
const defaults = Object.freeze({ reach: 24 });

/** A point of a drawing, with what is said of it. */
export interface Dot {
  id: string;
  x: number;
  y: number;
  text: string;
}

/** Finds the point that the hand means anywhere over a plot, however small its dot is; drawn last, above the dots. */
export function Nearest({ box, dots, near }: { box: Box; dots: readonly Dot[]; near(id: string | undefined): void }) {
  // Worked out when a hand first comes near: a chart of a thousand dots must not pay for it as it opens.
  const found = useMemo(() => {
    let made: Delaunay<Dot> | undefined;
    return () => {
      made ??= Delaunay.from(
        dots,
        (s) => s.x,
        (s) => s.y,
      );
      return made;
    };
  }, [dots]);
  const [meant, setMeant] = useState<Dot | undefined>(undefined);
  const mean = (dot: Dot | undefined): void => {
    if (dot?.id === meant?.id) return;
    setMeant(dot);
    near(dot?.id);
  };
  return (
    <rect
      x={box.left}
      y={box.top}
      width={box.width}
      height={box.height}
      fill="transparent"
      onPointerMove={(e) => {
        const [x, y] = pointer(e.nativeEvent, e.currentTarget);
        const dot = dots[found().find(x, y)];
        mean(dot && Math.hypot(dot.x - x, dot.y - y) <= defaults.reach ? dot : undefined);
      }}
      onPointerLeave={() => mean(undefined)}
    >
      {meant && <title>{meant.text}</title>}
    </rect>
  );
}
