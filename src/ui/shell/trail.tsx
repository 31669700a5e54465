"use client";
import Link from "next/link";
import { usePathname } from "next/navigation";
import { memo, useDeferredValue, useEffect, useMemo, useState } from "react";
import { STATIONS, type StageMarker, type Station, trailOf } from "@/core/findings";
import { overallDesirability } from "@/core/setpoint";
import type { Mark, Study } from "@/core/study";
import { useDesk } from "../desk/store";
import { useStudyView } from "../desk/view";
import { Flag } from "../parts/flag";
import { shareText } from "../parts/format";
import { colours } from "../theme/theme";
import css from "./shell.module.css";
import { StageMarkerGlyph } from "./stage-marker";
import { STATION_NAMES } from "./station-names";

/** The trail with what only fitted models can say. */
function useTrail(study: Study | undefined, response: string | undefined): StageMarker[] {
  const view = useStudyView(study);
  return useMemo(() => {
    if (!study) return STATIONS.map((station) => ({ station, fact: "\u00a0", stones: 0, loose: false }));
    return trailOf(study).map((c) => {
      if (c.station === "model" && response && study.models.some((m) => m.response === response)) {
        const f = view.fitted(response);
        const name = study.responses.find((r) => r.id === response)?.name ?? response;
        if (f.ok)
          return {
            ...c,
            fact: `${f.fitted.fit.terms.length} terms${f.fitted.fit.summary.r2Predicted === null ? "" : `, ${f.fitted.fit.model.likelihood ? "D²" : "R²"} pred ${shareText(f.fitted.fit.summary.r2Predicted, 2)}`} · ${name}`,
          };
      }
      if (c.station === "setpoint" && study.setpoint) {
        const settings = study.setpoint.settings;
        const complete = study.factors.every((f) => settings[f.id] !== undefined);
        const wished = study.responses.filter((r) => r.goal.aim !== "watch");
        const fits = wished.map((r) => [r.id, view.fitted(r.id)] as const);
        if (complete && wished.length > 0 && fits.every(([, f]) => f.ok)) {
          const d = overallDesirability(
            wished,
            new Map(fits.map(([id, f]) => [id, f.ok ? f.fitted.predictor.value(settings) : Number.NaN])),
          );
          const verdict = view.confirmed();
          return { ...c, fact: `D ${d.toFixed(2)}, ${verdict}`, stones: verdict === "confirmed" ? 3 : c.stones };
        }
      }
      return c;
    });
  }, [study, view, response]);
}

/** Time after which a station that opened is taken to be quiet. */
const AHEAD_MS = 1500;

/** One cairn; drawn anew only when its fact changes. */
const Stop = memo(function Stop({
  study,
  station,
  fact,
  stones,
  loose,
  active,
  ahead,
}: {
  study: string;
  station: Station;
  fact: string;
  stones: number;
  loose: boolean;
  active: boolean;
  /** Whether its page is fetched before anyone goes there. */
  ahead: boolean;
}) {
  return (
    <Link
      prefetch={ahead}
      href={`/studies/${study}/${station}`}
      className={css.stop}
      aria-current={active ? "page" : undefined}
      title={`${STATION_NAMES[station]}: ${fact}${loose ? "; something upstream changed since" : ""}`}
    >
      <StageMarkerGlyph stones={stones} loose={loose} active={active} />
      <span style={{ minWidth: 0 }}>
        <strong>{STATION_NAMES[station]}</strong>
        <em>{fact}</em>
      </span>
    </Link>
  );
});

/** Moments that were named at a station, as a flag on the ridge that leads to them. */
function Flags({ study, station, marks }: { study: string; station: Station; marks: readonly Mark[] }) {
  const last = marks[marks.length - 1];
  if (!last) return null;
  return (
    <Link
      prefetch={false}
      href={`/studies/${study}/history#mark-${last.id}`}
      className={css.flag}
      title={`Marked: ${marks.map((m) => m.name).join("; ")}`}
      data-flag={station}
    >
      <Flag />
      <span>{marks.length === 1 ? last.name : `${marks.length} marks`}</span>
    </Link>
  );
}

/** Six cairns on a ridge, each with its live fact and what was marked there. */
export function Trail() {
  const id = useDesk((d) => d.id);
  // Facts rest on fits of every response: the station's own work goes first, as it opens and at every change.
  const study = useDeferredValue<Study | undefined>(
    useDesk((d) => d.study),
    undefined,
  );
  const response = useDesk((d) => d.response);
  const trail = useTrail(study, response);
  const marks = useDesk((d) => d.marks);
  const path = usePathname();
  const stand = useDesk((d) => d.stand);
  useEffect(() => {
    const station = STATIONS.find((s) => path.endsWith(`/${s}`));
    if (station) stand(station);
  }, [path, stand]);
  // The other stations' pages come once this one stands and is quiet.
  const [ahead, setAhead] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => setAhead(true), AHEAD_MS);
    return () => clearTimeout(timer);
  }, []);
  return (
    <nav className={css.trail} aria-label="Stations">
      <svg className={css.ridge} viewBox="0 0 1280 24" preserveAspectRatio="none" aria-hidden="true">
        <path
          d="M0 12 C60 4 110 16 200 13 S330 6 420 14 S560 20 650 12 S800 4 900 13 S1080 20 1160 12 S1250 8 1280 12 V24 H0 Z"
          fill={colours.ridge}
        />
        <path
          d="M0 12 C60 4 110 16 200 13 S330 6 420 14 S560 20 650 12 S800 4 900 13 S1080 20 1160 12 S1250 8 1280 12"
          fill="none"
          stroke={colours.rule}
        />
      </svg>
      {trail.map((c) => (
        <div key={c.station} className={css.stand}>
          <Stop
            study={id}
            station={c.station}
            fact={c.fact}
            stones={c.stones}
            loose={c.loose}
            active={path.endsWith(`/${c.station}`)}
            ahead={ahead}
          />
          <Flags study={id} station={c.station} marks={marks.filter((m) => m.station === c.station)} />
        </div>
      ))}
    </nav>
  );
}
