// biome-ignore-all lint/a11y/noStaticElementInteractions: what is pointed at stands as a row with keys below.
// biome-ignore-all lint/a11y/useSemanticElements: a drawing has no element of this kind.
"use client";
import { figure } from "@/core/findings";
import { alphabetOf, termName } from "@/core/study";
import { AxisX, AxisY, type Box, linear } from "@/ui/charts/marks/axis";
import { Dot } from "@/ui/charts/marks/dots";
import { Line } from "@/ui/charts/marks/line";
import { setKey } from "./criteria";
import type { Rivals } from "./use-rivals";

const W = 400;
const H = 210;

/** All models that were looked at, by their number of columns and a criterion. */
export function SubsetsChart({ rivals: { study, ordered, isKept, isHere, use } }: { rivals: Rivals }) {
  const { name, low, value, models, bySize, within } = ordered;
  const alphabet = alphabetOf(study);
  const drawn = models.filter(within);
  if (drawn.length === 0) return null;
  const box: Box = { left: 56, top: 10, width: W - 70, height: H - 52 };
  const x = linear([-0.4, Math.max(1, ...drawn.map((m) => m.k)) + 0.4], [box.left, box.left + box.width]);
  const values = drawn.map(value);
  const pad = (Math.max(...values) - Math.min(...values)) * 0.06 || 1;
  const y = linear(
    low
      ? [Math.max(...values) + pad, Math.min(...values) - pad]
      : [Math.min(...values) - pad, Math.max(...values) + pad],
    [box.top + box.height, box.top],
  );
  return (
    <svg
      width="100%"
      viewBox={`0 0 ${W} ${H}`}
      role="group"
      aria-label={`${drawn.length} models, ${name} against number of columns`}
    >
      <AxisX scale={x} box={box} name="columns of terms" ticks={x.ticks(8).filter(Number.isInteger)} />
      <AxisY scale={y} box={box} name={`${name}, better upwards`} count={5} grid offset={44} />
      <Line through={bySize.filter(within).map((m) => [x(m.k), y(value(m))])} colour="rule" width={1} />
      {drawn.map((m) => {
        const now = isHere(m.terms);
        const stays = isKept(m.terms);
        return (
          <Dot
            key={setKey(m.terms)}
            at={[x(m.k), y(value(m))]}
            r={now ? 6 : stays ? 5 : 3.2}
            colour={now ? "accent" : stays ? "highlight" : "paper"}
            outline={now || stays ? "ink" : "tick"}
            outlineWidth={1}
            tap={() => use(m.terms)}
            title={`${m.terms.map((t) => termName(alphabet, t)).join(", ") || "constant only"}: ${name} ${figure(value(m), 4)}`}
          />
        );
      })}
    </svg>
  );
}
