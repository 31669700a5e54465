import type { Surface } from "@/core/model";
import { limitsOf } from "@/core/setpoint";
import type { Goal, Response } from "@/core/study";
import { clip, limitText } from "../parts/format";
import type { LimitLine } from "./surface-map";

/** The limits of one response's goal, each as a line of its own. */
export function limitLines(
  response: Pick<Response, "name" | "unit" | "measured"> & { goal: Goal },
  read: Pick<Surface, "plane">,
): LimitLine[] {
  const { low, high } = limitsOf(response.goal);
  return ([low, high] as const).flatMap((limit, i): LimitLine[] =>
    Number.isFinite(limit)
      ? [
          {
            text: `${clip(response.name, 22)} ${i === 0 ? "≥" : "≤"} ${limitText(response, limit)}`,
            inside: (settings, x, y) => {
              const plane = read.plane(settings, x, y);
              return (vx, vy) => (i === 0 ? plane(vx, vy) - limit : limit - plane(vx, vy));
            },
          },
        ]
      : [],
  );
}
