"use client";
import type { ReactNode } from "react";
import type { Evidence, Reading } from "@/core";
import { Probe } from "./probe";
import { Readings } from "./readings";
import css from "./shell.module.css";

/** What every station stands in: its work, the probe where it has one, its readings. */
export function StationFrame({
  name,
  heading,
  readings,
  onShow,
  probe,
  children,
}: {
  name: string;
  heading?: ReactNode;
  readings: readonly Reading[];
  onShow?: (evidence: Evidence, about: string | undefined) => void;
  probe?: boolean;
  children: ReactNode;
}) {
  return (
    <div className={css.body} data-probe={probe ? "yes" : "no"}>
      {probe && <Probe />}
      <main className={css.station} data-station={name.toLowerCase()}>
        <div className={css.heading}>
          <h1>{name}</h1>
          {heading}
        </div>
        {children}
      </main>
      <Readings readings={readings} onShow={onShow} />
    </div>
  );
}
