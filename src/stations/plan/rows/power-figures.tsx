"use client";
import { Input } from "antd";
import { useState } from "react";
import { detectable, type PlanSummary, readNumber, termPower } from "@/core";
import { CopyRows } from "@/ui/parts/copy-rows";
import { figure } from "@/ui/parts/format";
import css from "../plan.module.css";
import { letterOf, type Planning } from "../use-planning";
import { PowerChart } from "./curves";

const POWERS = [0.6, 0.7, 0.8, 0.9, 0.95];
/** Changes at which the power is given until others are typed: parts of what is worth finding, else of the noise. */
const PARTS = [0.5, 1, 1.5, 2];

/** Power of a plan's hardest effect at a change, in σ. */
const powerAt = (s: PlanSummary, ratio: number, alpha: number): string => {
  const power = s.worst && termPower(s.worst, ratio, alpha, s.residualDf);
  return power === null ? "–" : power.toFixed(2);
};

/** What is seen at usual powers, and the power at stated changes, of the hardest effect of each plan. */
function PowerTable({ planning: { picked, request, response, noise, unit } }: { planning: Planning }) {
  const base = response?.smallest ?? noise;
  const [typed, setTyped] = useState<string | undefined>(undefined);
  const [typedNoise, setTypedNoise] = useState<string | undefined>(undefined);
  const text = typed ?? PARTS.map((p) => figure(p * base)).join("; ");
  const changes = text
    .split(";")
    .map((t) => readNumber(t.trim()))
    .filter((v): v is number => typeof v === "number" && v > 0);
  const read = readNumber(typedNoise ?? String(noise));
  const sigma = typeof read === "number" && read > 0 ? read : noise;
  const seen = (s: PlanSummary, power: number): string => {
    const ratio = s.worst && detectable(s.worst, power, request.alpha, s.residualDf);
    return ratio === null ? "–" : figure(ratio * sigma);
  };
  const heads = picked.map((_, i) => letterOf(i));
  const body = [
    ...POWERS.map((p) => [`sees at power ${p.toFixed(2)}, ${unit}`, ...picked.map((s) => seen(s, p))]),
    ...changes.map((c) => [
      `power at ${figure(c, 3)} ${unit}`,
      ...picked.map((s) => powerAt(s, c / sigma, request.alpha)),
    ]),
  ];
  return (
    <div>
      <div className="row small" style={{ flexWrap: "wrap", margin: "6px 0 4px" }}>
        <span className="row">
          noise
          <Input
            className="num"
            style={{ width: 70 }}
            aria-label="Noise of the power table"
            status={typeof read === "number" && read > 0 ? "" : "error"}
            value={typedNoise ?? String(noise)}
            onChange={(e) => setTypedNoise(e.target.value)}
          />
        </span>
        <span className="row">
          changes
          <Input
            className="num"
            style={{ width: 190 }}
            aria-label="Changes of the power table"
            status={changes.length > 0 ? "" : "error"}
            value={text}
            onChange={(e) => setTyped(e.target.value)}
          />
        </span>
        <span className="grow" />
        <CopyRows what="Power" rows={[["", ...heads], ...body]} />
      </div>
      {changes.length === 0 && (
        <p className="small rowan" role="alert">
          Type changes above 0, with semicolons between them.
        </p>
      )}
      <table className={css.figures} aria-label="Power of the plans picked">
        <thead>
          <tr>
            <th>of the hardest effect asked</th>
            {heads.map((h) => (
              <th key={h}>{h}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {body.map(([name, ...values]) => (
            <tr key={name}>
              <td>{name}</td>
              {values.map((v, i) => (
                <td key={heads[i]} className="num">
                  {v}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** Power of the plans picked: drawn, and as a table. */
export function PowerFigures({ planning }: { planning: Planning }) {
  const { picked, noise, unit, response, request } = planning;
  return (
    <div className={css.beside}>
      <PowerChart
        summaries={picked}
        noise={noise}
        unit={unit}
        wanted={response?.smallest}
        alpha={request.alpha}
        power={request.power}
      />
      <PowerTable planning={planning} />
    </div>
  );
}
