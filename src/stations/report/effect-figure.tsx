"use client";
import { useRef } from "react";
import { linear } from "@/ui/charts/axes";
import { useDesk } from "@/ui/desk/store";
import { useStudyView } from "@/ui/desk/view";
import { axisName, figure } from "@/ui/parts/format";
import { LinkButton } from "@/ui/parts/link-button";
import { colours } from "@/ui/theme/theme";

/** Saves an SVG drawn on the page as a file of its own. */
function saveSvg(svg: SVGSVGElement | null, name: string): void {
  if (!svg) return;
  const copy = svg.cloneNode(true) as SVGSVGElement;
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  const url = URL.createObjectURL(new Blob([new XMLSerializer().serializeToString(copy)], { type: "image/svg+xml" }));
  const a = document.createElement("a");
  a.href = url;
  a.download = `${name}.svg`;
  a.click();
  URL.revokeObjectURL(url);
}

/** Bars of the terms in a model with their intervals: the ladder as it prints. */
export function EffectFigure({ response }: { response: string }) {
  const study = useDesk((d) => d.study);
  const svg = useRef<SVGSVGElement>(null);
  const f = useStudyView().fitted(response);
  if (!f.ok) return null;
  const rungs = f.fitted.ladder.rungs.filter((r) => r.inModel);
  const about = study.responses.find((r) => r.id === response);
  const reach = Math.max(...rungs.flatMap((r) => [Math.abs(r.size ?? 0), ...(r.interval ?? []).map(Math.abs)]), 1e-12);
  const x = linear([-reach, reach], [300, 690]);
  const height = rungs.length * 20 + 40;
  return (
    <figure style={{ margin: "6px 0" }}>
      <svg
        ref={svg}
        viewBox={`0 0 720 ${height}`}
        width="100%"
        role="img"
        aria-label={`Effects on ${about?.name}`}
        fontFamily="Source Sans 3, sans-serif"
      >
        <line x1={x(0)} x2={x(0)} y1="0" y2={rungs.length * 20} stroke="#B8AC90" />
        {rungs.map((r, i) => (
          <g key={r.key} transform={`translate(0 ${i * 20})`}>
            <text x="288" y="14" textAnchor="end" fontSize="12.5" fill={colours.ink}>
              {r.name}
            </text>
            <rect
              x={Math.min(x(0), x(r.size ?? 0))}
              width={Math.abs(x(r.size ?? 0) - x(0))}
              y="4"
              height="12"
              fill={colours.accent}
            />
            {r.interval && (
              <line
                x1={x(r.interval[0])}
                x2={x(r.interval[1])}
                y1="10"
                y2="10"
                stroke={colours.ink}
                strokeWidth="1.5"
              />
            )}
          </g>
        ))}
        {x.ticks(5).map((t) => (
          <text key={t} x={x(t)} y={rungs.length * 20 + 14} textAnchor="middle" fontSize="11" fill={colours.quiet}>
            {figure(t)}
          </text>
        ))}
        <text x={x(0)} y={rungs.length * 20 + 32} textAnchor="middle" fontSize="12" fill={colours.ink}>
          change in {axisName(about?.name ?? "", about?.unit)}, low to high (squares: centre to edge)
        </text>
      </svg>
      <LinkButton className="small" data-print="no" onClick={() => saveSvg(svg.current, `effects-${response}`)}>
        save figure as SVG
      </LinkButton>
    </figure>
  );
}
