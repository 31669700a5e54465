// biome-ignore-all lint/a11y/noAriaHiddenOnFocusable: groups of a drawing take no focus.
// biome-ignore-all lint/a11y/noInteractiveElementToNoninteractiveRole: drawn as one picture whose cells say themselves.
// biome-ignore-all lint/a11y/useSemanticElements: drawings and grids drawn in part have no elements of these kinds.
"use client";
import { useState } from "react";
import type { TermMapEntry } from "@/core/plans";
import {
  activeFactors,
  alphabetOf,
  isNumeric,
  type Study,
  type Term,
  termKey,
  termLetters,
  termName,
} from "@/core/study";
import { Band } from "@/ui/charts/marks/band";
import { Label } from "@/ui/charts/marks/label";
import { Rule } from "@/ui/charts/marks/rule";
import { colours } from "@/ui/theme/theme";

interface TermMapProps {
  study: Study;
  map: readonly TermMapEntry[];
  /** Terms without an estimate beside the others. */
  lost: readonly Term[];
  letter: string;
}

/** What a plan can say of an effect, in a sentence or two. */
function told(alphabet: ReturnType<typeof alphabetOf>, m: TermMapEntry, lost: readonly Term[]): string {
  const name = termName(alphabet, m.term);
  const others = (most: number): string =>
    `${m.with
      .slice(0, most)
      .map((t) => termName(alphabet, t))
      .join(", ")}${m.with.length > most ? ` and ${m.with.length - most} more` : ""}`;
  const how =
    m.state !== "lost" && lost.some((t) => termKey(t) === termKey(m.term))
      ? `${name} has no estimate beside the others asked.`
      : m.state === "clear"
        ? `${name} is all its own.`
        : m.state === "shared"
          ? `${name} is its own but for a correlation of ${m.largest.toFixed(2)} with ${others(2)}.`
          : m.with.length === 0
            ? `${name} cannot be estimated.`
            : `${name} cannot be told from ${others(4)}.`;
  return m.between ? `${how} Only set-ups tell it.` : how;
}

/**
 * A triangle of effects: mains in a strip along its top, squares on the diagonal, interactions below. A cell is filled
 * by how much of the effect is its own; pointing at one lights those that travel with it and says so in words.
 */
export function TermMap({ study, map, lost, letter }: TermMapProps) {
  const [at, setAt] = useState<string | undefined>(undefined);
  const factors = activeFactors(study);
  const k = factors.length;
  const alphabet = alphabetOf(study);
  const size = k <= 8 ? 20 : k <= 11 ? 15 : 11.5;
  const gap = k <= 8 ? 3 : 2;
  const entries = new Map(map.map((m) => [termKey(m.term), m]));
  const pointed = at === undefined ? undefined : entries.get(at);
  const lit = new Set(pointed?.with.map(termKey) ?? []);
  const left = 20;
  // Without squares the first factor has no row of its own below the strip.
  const squares = factors.some((f) => entries.has(termKey([f.id, f.id])));
  const lift = squares ? 0 : 1;
  // Small cells hold no letters: those stand along the edges.
  const top = size > 14 ? 4 : 15;
  const pixelOf = (col: number, row: number): [number, number] => [
    left + col * (size + gap),
    top + (row === 0 ? 0 : row - lift) * (size + gap),
  ];
  const cells: { term: Term; x: number; y: number }[] = [];
  factors.forEach((f, i) => {
    const [x, y] = pixelOf(i, 0);
    cells.push({ term: [f.id], x, y });
    factors.slice(0, i).forEach((g, j) => {
      const [cx, cy] = pixelOf(j, i + 1);
      cells.push({ term: [g.id, f.id], x: cx, y: cy + 4 });
    });
    if (isNumeric(f) && entries.has(termKey([f.id, f.id]))) {
      const [cx, cy] = pixelOf(i, i + 1);
      cells.push({ term: [f.id, f.id], x: cx, y: cy + 4 });
    }
  });
  const describe = (m: TermMapEntry): string => told(alphabet, m, lost);
  const width = left + k * (size + gap) + 4;
  const height = top + (k + 1 - lift) * (size + gap) + 8;
  const between = map.some((m) => m.between);
  const shared = map.filter((m) => m.state !== "clear").length;
  return (
    <div style={{ display: "flex", flexWrap: "wrap", gap: "0 12px", alignItems: "flex-start" }}>
      <svg
        width={width}
        height={height}
        style={{ flex: "none" }}
        role="group"
        aria-label={`Term map of plan ${letter}: ${map.length - shared} of ${map.length} effects are clear`}
      >
        {factors.slice(lift).map((f, i) => (
          <g key={f.id} fontSize={k <= 8 ? 11 : 9.5} fill={colours.quiet} className="num" aria-hidden="true">
            <text x={left - 5} y={pixelOf(0, i + 1 + lift)[1] + size / 2 + 8} textAnchor="end">
              {f.letter}
            </text>
          </g>
        ))}
        {size <= 14 &&
          factors.map((f, i) => (
            <text
              key={f.id}
              x={pixelOf(i, 0)[0] + size / 2}
              y="10"
              textAnchor="middle"
              fontSize="9.500"
              className="num"
              fill={colours.quiet}
              aria-hidden="true"
            >
              {f.letter}
            </text>
          ))}
        {cells.map(({ term, x, y }) => {
          const key = termKey(term);
          const m = entries.get(key);
          const share = m ? (m.state === "lost" ? 0 : 1 - m.largest ** 2) : undefined;
          const main = term.length === 1;
          return (
            <g
              key={key}
              tabIndex={m ? 0 : -1}
              role="img"
              aria-label={m ? describe(m) : `${termName(alphabet, term)}: not asked`}
              onPointerEnter={() => setAt(key)}
              onPointerLeave={() => setAt(undefined)}
              onFocus={() => setAt(key)}
              onBlur={() => setAt(undefined)}
              style={{ outlineOffset: 1 }}
            >
              <Band
                x={x}
                y={y}
                width={size}
                height={size}
                round={3}
                colour={share === undefined ? "none" : "raised"}
                outline={lit.has(key) || at === key ? "highlight" : share === undefined ? "empty" : "cell"}
                outlineWidth={lit.has(key) || at === key ? 2.5 : 1}
              />
              {share !== undefined && share > 0 && (
                <Band
                  x={x + 1.5}
                  y={y + 1.5 + (size - 3) * (1 - share)}
                  width={size - 3}
                  height={(size - 3) * share}
                  round={2}
                  opacity={main ? 1 : 0.72}
                />
              )}
              {m?.between && <Band x={x} y={y} width={size} height={4} colour="info" />}
              {m?.state === "lost" && (
                <Rule from={[x + 4, y + size - 4]} to={[x + size - 4, y + 4]} colour="warning" width={1.5} />
              )}
              {main && size > 14 && (
                <Label
                  at={[x + size / 2, y + size / 2 + 4]}
                  anchor="middle"
                  size={10.5}
                  className="num"
                  colour={share && share > 0.6 ? "raised" : "ink"}
                >
                  {termLetters(alphabet, term)}
                </Label>
              )}
            </g>
          );
        })}
      </svg>
      <p className="small quiet" style={{ minWidth: 90, marginTop: 4 }} aria-live="polite">
        {pointed
          ? describe(pointed)
          : shared === 0
            ? "Every effect asked is all its own."
            : "Struck: lost. Part filled: shared. Point at a cell."}
        {!pointed && between && " Barred: only set-ups tell it."}
      </p>
    </div>
  );
}
