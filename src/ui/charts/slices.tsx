"use client";
import type { ComponentProps } from "react";
import { activeFactors, decode, type Factor, isNumeric, rangeOf, type Setting, type Study, snap } from "@/core/study";
import { named, Pick } from "@/ui/parts/pick";
import { settingText } from "../parts/format";
import { SurfaceMap } from "./surface-map";

/** Where a factor is cut: its levels, or low, middle and high. */
const cutsOf = (f: Factor): Setting[] =>
  isNumeric(f) ? [rangeOf(f)[0], snap(f, decode(f, 0)), rangeOf(f)[1]] : f.levels;

/** Chooses the factor that slices are taken over: any but the two that are drawn. */
export function SlicePick({
  study,
  x,
  y,
  third,
  pick,
}: {
  study: Study;
  x: string;
  y: string;
  third: Factor;
  pick(id: string): void;
}) {
  return (
    <Pick
      style={{ maxWidth: 130 }}
      label="Slices over"
      value={third.id}
      options={named(activeFactors(study).filter((f) => f.id !== x && f.id !== y))}
      set={pick}
    />
  );
}

type MapProps = ComponentProps<typeof SurfaceMap>;

/** The same map at every level of a category, or at low, middle and high of a number, on one scale of shades. */
export function Slices({
  third,
  room,
  scaleOver,
  ...map
}: Omit<MapProps, "width" | "height" | "tags"> & {
  third: Factor;
  /** Width and height that all slices share. */
  room: { width: number; height: number };
  scaleOver: [number, number];
}) {
  const cuts = cutsOf(third);
  const columns = room.width >= 430 ? 2 : 1;
  const rows = Math.ceil(cuts.length / columns);
  return (
    <div style={{ display: "grid", gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))`, gap: 8 }}>
      {cuts.map((cut) => {
        const caption = `${third.name} ${settingText(cut)}`;
        return (
          <div key={String(cut)}>
            <h3 className="small">
              {caption} {isNumeric(third) ? (third.unit ?? "") : ""}
            </h3>
            <SurfaceMap
              {...map}
              probe={{ ...map.probe, [third.id]: cut }}
              name={`${map.name} at ${caption}`}
              scaleOver={scaleOver}
              width={Math.max(190, Math.floor((room.width - 8) / columns))}
              height={Math.max(185, Math.min(300, Math.floor(room.height / Math.min(rows, 2)) - 24))}
            />
          </div>
        );
      })}
    </div>
  );
}
