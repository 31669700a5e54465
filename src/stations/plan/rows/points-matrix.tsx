"use client";
import { useMemo } from "react";
import type { Plan } from "@/core/plans";
import { activeFactors, code, excludedShares, isNumeric, type NumericFactor, type Study } from "@/core/study";
import { Band } from "@/ui/charts/marks/band";
import { Dot } from "@/ui/charts/marks/dots";
import { Hatch } from "@/ui/charts/marks/hatch";
import { clip } from "@/ui/parts/format";
import { colours } from "@/ui/theme/theme";

const CELLS = 12;
/** More factors than this make cells too small to read: the first are drawn and the rest named. */
const MOST = 7;

/**
 * Where a plan's trials lie: every pair of factors as a small square, larger dots for more trials, what the region
 * excludes shaded.
 */
export function PointsMatrix({ study, plan, letter }: { study: Study; plan: Plan; letter: string }) {
  const all = activeFactors(study);
  const factors = all.slice(0, MOST);
  const k = factors.length;
  const size = Math.min(54, Math.floor(232 / Math.max(1, k - 1)));
  const gap = 5;
  const left = 20;
  const limited = study.region.limits.length + study.region.forbidden.length > 0;
  const shades = useMemo(() => {
    if (!limited) return new Map<string, number[]>();
    const numeric = factors.filter((f): f is NumericFactor => isNumeric(f));
    return new Map(
      numeric.flatMap((a, i) =>
        numeric.slice(i + 1).map((b): [string, number[]] => [`${a.id}|${b.id}`, excludedShares(study, a, b, CELLS)]),
      ),
    );
  }, [study, factors, limited]);
  const pixelOf = (f: (typeof factors)[number], value: number | string): number =>
    isNumeric(f)
      ? code(f, value as number)
      : f.levels.length === 1
        ? 0
        : -1 + (2 * f.levels.indexOf(String(value))) / (f.levels.length - 1);
  const beyond = Math.max(1, ...plan.trials.flatMap((t) => factors.map((f) => Math.abs(pixelOf(f, t.settings[f.id])))));
  const spot = (v: number): number => size / 2 + (v / beyond) * (size / 2 - 5);
  const width = left + (k - 1) * (size + gap);
  return (
    <div>
      <svg
        width={width}
        height={(k - 1) * (size + gap) + 16}
        role="img"
        aria-label={`Trials of plan ${letter} over every pair of factors`}
      >
        {factors.slice(1).map((b, r) => (
          <g key={b.id}>
            <text
              x={left - 6}
              y={r * (size + gap) + size / 2 + 4}
              textAnchor="end"
              fontSize="11"
              className="num"
              fill={colours.quiet}
            >
              {b.letter}
            </text>
            {factors.slice(0, r + 1).map((a, c) => {
              const counts = new Map<string, { x: number; y: number; n: number }>();
              for (const t of plan.trials) {
                const x = pixelOf(a, t.settings[a.id]);
                const y = pixelOf(b, t.settings[b.id]);
                const key = `${x.toFixed(3)}|${y.toFixed(3)}`;
                const count = counts.get(key);
                counts.set(key, { x, y, n: (count?.n ?? 0) + 1 });
              }
              const most = Math.max(...[...counts.values()].map((p) => p.n));
              const shade = shades.get(`${a.id}|${b.id}`);
              const inner = (size - 10) / beyond;
              return (
                <g key={a.id} transform={`translate(${left + c * (size + gap)} ${r * (size + gap)})`}>
                  <Band width={size} height={size} round={3} colour="raised" outline="hairline" />
                  {shade && (
                    <Hatch
                      shares={shade}
                      left={size / 2 - inner / 2}
                      top={size / 2 - inner / 2}
                      size={inner}
                      whole={0.55}
                      part={0}
                    />
                  )}
                  {[...counts.values()].map((p) => (
                    <Dot
                      key={`${p.x}|${p.y}`}
                      at={[spot(p.x), size - spot(p.y)]}
                      r={Math.min(size / 9, 1.4 + 2.6 * Math.sqrt(p.n / most))}
                      opacity={0.75}
                      title={`${p.n} ${p.n === 1 ? "trial" : "trials"}`}
                    />
                  ))}
                </g>
              );
            })}
          </g>
        ))}
        {factors.slice(0, -1).map((a, c) => (
          <text
            key={a.id}
            x={left + c * (size + gap) + size / 2}
            y={(k - 1) * (size + gap) + 10}
            textAnchor="middle"
            fontSize="11"
            className="num"
            fill={colours.quiet}
          >
            {a.letter}
          </text>
        ))}
      </svg>
      {all.length > MOST && (
        <p className="small quiet">
          The first {MOST} factors; {all.length - MOST} more:{" "}
          {clip(
            all
              .slice(MOST)
              .map((f) => f.name)
              .join(", "),
            60,
          )}
          .
        </p>
      )}
    </div>
  );
}
