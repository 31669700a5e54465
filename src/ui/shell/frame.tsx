"use client";
import type { ReactNode } from "react";
import type { Evidence, Reading, ReadingAction } from "@/core/findings";
import { useDesk } from "../desk/store";
import { Probe } from "./probe";
import { Readings } from "./readings";
import css from "./shell.module.css";

/** What every station stands in: its work, the probe where it has one, its readings. */
export function StationFrame({
  name,
  heading,
  readings,
  onShow,
  onAct,
  probe,
  wideable = false,
  late = false,
  children,
}: {
  name: string;
  heading?: ReactNode;
  readings: readonly Reading[];
  onShow?: (evidence: Evidence, about: string | undefined) => void;
  /** What a reading's button does that leads nowhere. */
  onAct?: (action: ReadingAction) => void;
  probe?: boolean;
  /** Has a view that can take the whole page. */
  wideable?: boolean;
  /** The readings lag behind what is on screen. */
  late?: boolean;
  children: ReactNode;
}) {
  const wide = useDesk((d) => d.wide) && wideable;
  return (
    <div className={css.body} data-probe={probe && !wide ? "yes" : "no"} data-wide={wide ? "yes" : "no"}>
      {probe && <Probe />}
      <main className={css.station} data-station={name.toLowerCase()}>
        <div className={css.heading}>
          <h1>{name}</h1>
          {heading}
        </div>
        {children}
      </main>
      <Readings readings={readings} late={late} onShow={onShow} onAct={onAct} />
    </div>
  );
}
