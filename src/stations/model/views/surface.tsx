"use client";
import { useMemo } from "react";
import { climbReading, messageText } from "@/core/findings";
import { stationaryPoint, steepestAscent } from "@/core/model";
import {
  activeFactors,
  alphabetOf,
  type Factor,
  isNumeric,
  type NumericFactor,
  rangeOf,
  type Study,
  valueUnit,
} from "@/core/study";
import { useDesk } from "@/ui/desk/store";
import { Assumed } from "@/ui/parts/assumed";
import { CopyRows } from "@/ui/parts/copy-rows";
import { figure, ownError, settingText, valueText, valueWithUnit, withUnit } from "@/ui/parts/format";
import { LinkButton } from "@/ui/parts/link-button";
import { ScrollBox } from "@/ui/parts/scroll-box";
import css from "../model.module.css";
import type { ViewProps } from "./view";

const NATURE = {
  maximum: "a maximum: the response falls off on all sides",
  minimum: "a minimum: the response rises on all sides",
  saddle: "a saddle: it rises one way and falls the other",
  ridge: "a ridge: along one direction it hardly changes",
} as const;

/** A direction in words: "Heat up with Dose down". */
function directionText(study: Study, direction: Readonly<Record<string, number>>): string {
  const alphabet = alphabetOf(study);
  const sizes = Object.entries(direction).filter(([, v]) => Math.abs(v) >= 0.3);
  const lead = sizes.length > 0 && sizes[0][1] < 0 ? -1 : 1;
  return sizes
    .map(([id, v]) => `${alphabet.names.get(id) ?? id} ${lead * v > 0 ? "up" : "down"} (${figure(Math.abs(v))})`)
    .join(" with ");
}

/** To a thousandth of the range: a level place is not known any better. */
function roughly(f: NumericFactor, value: number): number {
  const [low, high] = rangeOf(f);
  const unit = 10 ** Math.floor(Math.log10(high - low) - 2.5);
  return Number((Math.round(value / unit) * unit).toPrecision(9)) + 0;
}

const settingsText = (factors: readonly Factor[], settings: Readonly<Record<string, number | string>>): string =>
  factors
    .filter((f) => settings[f.id] !== undefined)
    .map((f) => {
      const value = settings[f.id];
      return isNumeric(f)
        ? `${f.name} ${withUnit(settingText(roughly(f, value as number)), f.unit)}`
        : `${f.name} ${value}`;
    })
    .join(", ");

/** The shape of the surface: where it is level and what it is like there, and the path up or down from the probe. */
export function SurfaceView({ study, fitted }: ViewProps) {
  const probe = useDesk((d) => d.probe);
  const setProbe = useDesk((d) => d.setProbe);
  const { predictor, fit } = fitted;
  const response = study.responses.find((r) => r.id === fit.response);
  const { stationary, reason } = useMemo(() => stationaryPoint(study, predictor, probe), [study, predictor, probe]);
  const path = useMemo(() => steepestAscent(study, predictor, probe), [study, predictor, probe]);
  const climb = climbReading(study, predictor, path);
  const numeric = activeFactors(study).filter(isNumeric);
  const moved = numeric.filter((f) => path.points.some((p) => p.settings[f.id] !== path.points[0]?.settings[f.id]));
  const at = stationary && predictor.predict(stationary.settings);
  const unit = response && valueUnit(response);
  const value = (v: number, error: number | null): string =>
    response ? valueWithUnit(response, v, error) : valueText(response, v, error);
  const span = (interval: readonly [number, number] | null, error: number | null): string =>
    interval ? interval.map((v) => valueText(response, v, error)).join(" to ") : "–";
  return (
    <div>
      <h2>Where it is level</h2>
      {stationary && at ? (
        <div data-testid="stationary">
          <p style={{ margin: "4px 0" }}>
            {settingsText(numeric, stationary.settings)}:{" "}
            <b className="num">{value(at.mean, ownError(at, fit.model.link))}</b>
            {at.meanInterval && (
              <span className="num quiet">
                {" "}
                ({withUnit(span(at.meanInterval, ownError(at, fit.model.link)), unit)}
                <Assumed ratio={at.assumed} />)
              </span>
            )}
            . It is {NATURE[stationary.nature]}.{" "}
            {stationary.inside
              ? "It lies within what may be run."
              : "It lies outside what may be run: read it as a direction, not as a place."}{" "}
            <LinkButton onClick={() => setProbe({ ...probe, ...stationary.settings })}>take the probe there</LinkButton>
          </p>
          <table className={`${css.table} ${css.tight}`} aria-label="Directions of the surface">
            <thead>
              <tr>
                <th>direction</th>
                <th>half its curvature</th>
                <th>along it the response</th>
              </tr>
            </thead>
            <tbody>
              {stationary.eigenvalues.map((v, i) => (
                <tr key={i}>
                  <td>{directionText(study, stationary.directions[i])}</td>
                  <td>{figure(v, 3)}</td>
                  <td>{Math.abs(v) < 1e-12 ? "stays level" : v < 0 ? "falls off" : "rises"}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="small quiet" style={{ marginTop: 4 }}>
            In coded units, −1 at low and 1 at high{fit.model.link.identity ? "" : ", on the fitted scale"}. Categories
            as at the probe.
          </p>
        </div>
      ) : (
        <p className="quiet">{reason && messageText("remarks", reason)}</p>
      )}
      <div className="row" style={{ margin: "12px 0 4px" }}>
        <h2 className="grow">The path {path.towards === "higher" ? "up" : "down"} from the probe</h2>
        {path.points.length > 0 && (
          <CopyRows
            what="Path"
            rows={[
              ["step", ...moved.map((f) => f.name), "predicted", "from", "to", "within what was run"],
              ...path.points.map((p) => [
                p.step,
                ...moved.map((f) => p.settings[f.id]),
                p.predicted,
                p.meanInterval?.[0],
                p.meanInterval?.[1],
                p.inside ? "yes" : "no",
              ]),
            ]}
          />
        )}
      </div>
      {climb && <p style={{ marginBottom: 6 }}>{messageText("readings", climb)}</p>}
      {path.points.length > 0 && (
        <ScrollBox className={css.wideTable} name="Path of steepest ascent">
          <table className={`${css.table} ${css.tight}`}>
            <thead>
              <tr>
                <th>step</th>
                {moved.map((f) => (
                  <th key={f.id} title={f.name}>
                    {f.letter}
                  </th>
                ))}
                <th>predicted{unit ? `, ${unit}` : ""}</th>
                <th>mean within</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {path.points.map((p) => {
                const error = p.meanInterval ? (p.meanInterval[1] - p.meanInterval[0]) / 4 : null;
                return (
                  <tr key={p.step}>
                    <td>{p.step}</td>
                    {moved.map((f) => (
                      <td key={f.id}>{settingText(p.settings[f.id])}</td>
                    ))}
                    <td>{valueText(response, p.predicted, error)}</td>
                    <td>
                      {span(p.meanInterval, error)}
                      <Assumed ratio={p.meanInterval ? fitted.predictor.assumed : undefined} />
                    </td>
                    <td>
                      <LinkButton onClick={() => setProbe({ ...probe, ...p.settings })}>probe</LinkButton>
                      {!p.inside && <div className="small warning">outside</div>}
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        </ScrollBox>
      )}
      <p className="small quiet" style={{ marginTop: 4 }}>
        {messageText("remarks", path.reason)} “Climb for {response?.name}” on Plan makes these steps a wave.
      </p>
    </div>
  );
}
