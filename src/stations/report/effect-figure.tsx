"use client";
import { useRef } from "react";
import { linear } from "@/ui/charts/marks/axis";
import { Bar } from "@/ui/charts/marks/bars";
import { Label } from "@/ui/charts/marks/label";
import { Rule } from "@/ui/charts/marks/rule";
import { useDesk } from "@/ui/desk/store";
import { useStudyView } from "@/ui/desk/view";
import { axisName, figure } from "@/ui/parts/format";
import { LinkButton } from "@/ui/parts/link-button";

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
        <Rule from={[x(0), 0]} to={[x(0), rungs.length * 20]} />
        {rungs.map((r, i) => (
          <g key={r.key} transform={`translate(0 ${i * 20})`}>
            <Label at={[288, 14]} anchor="end" size={12.5}>
              {r.name}
            </Label>
            <Bar from={x(0)} to={x(r.size ?? 0)} y={4} thick={12} />
            {r.interval && <Rule from={[x(r.interval[0]), 10]} to={[x(r.interval[1]), 10]} colour="ink" width={1.5} />}
          </g>
        ))}
        {x.ticks(5).map((t) => (
          <Label key={t} at={[x(t), rungs.length * 20 + 14]} anchor="middle" size={11} colour="quiet">
            {figure(t)}
          </Label>
        ))}
        <Label at={[x(0), rungs.length * 20 + 32]} anchor="middle">
          change in {axisName(about?.name ?? "", about?.unit)}, low to high (squares: centre to edge)
        </Label>
      </svg>
      <LinkButton className="small" data-print="no" onClick={() => saveSvg(svg.current, `effects-${response}`)}>
        save figure as SVG
      </LinkButton>
    </figure>
  );
}
