"use client";
import { memo, Suspense, useRef } from "react";
import { useDesk } from "@/ui/desk/store";
import { FigureTools } from "@/ui/parts/figure-tools";
import { LinkButton } from "@/ui/parts/link-button";
import css from "./model.module.css";
import { type PanelProps, views } from "./views";
import type { ViewProps } from "./views/view";

/** The view beside the ladder; drawn anew only when what it shows has changed. */
export const ViewPanel = memo(function ViewPanel({
  view,
  shown,
  marked,
  checks,
  late,
  toggle,
}: Omit<PanelProps, keyof ViewProps> & {
  view: string;
  shown: ViewProps | undefined;
}) {
  const panel = useRef<HTMLDivElement>(null);
  const wide = useDesk((d) => d.wide);
  const widen = useDesk((d) => d.widen);
  const about = views.find((v) => v.name === view) ?? views[0];
  const response = shown?.fitted.fit.response;
  const key = about.anew === "marked" ? `${response}-${marked}` : about.anew === "response" ? response : about.name;
  return (
    <>
      <div ref={panel} className={css.view}>
        <Suspense fallback={null}>
          {shown && <about.Panel key={key} {...shown} marked={marked} checks={checks} late={late} toggle={toggle} />}
        </Suspense>
      </div>
      <div className={css.tools}>
        <LinkButton className="small" aria-pressed={wide} title="Give the view the page ( w )" onClick={widen}>
          {wide ? "back beside the ladder" : "wide"}
        </LinkButton>
        <span className="grow" />
        {about.drawn && (
          <>
            copy the figure <FigureTools panel={panel} name={`${response ?? "figure"} ${view}`} />
          </>
        )}
      </div>
    </>
  );
});
