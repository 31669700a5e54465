"use client";
import { Input } from "antd";
import { useMemo, useState } from "react";
import { readNumber } from "@/core/formats";
import { countedPowerOf, detectable, type PlanSummary, planningOf, termPower } from "@/core/plans";
import { kindOf } from "@/core/study";
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
function PowerTable({ planning: { study, picked, request, response, noise, unit } }: { planning: Planning }) {
  // Shares and counts are judged by what would be counted, not by a noise.
  const counted = useMemo(() => picked.map((s) => countedPowerOf(study, s, request)), [study, picked, request]);
  const effort = { replicates: 1, of: request.counted?.of ?? 1 };
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
    const exact = counted[picked.indexOf(s)];
    if (exact) {
      const change = exact.detectable(power, request.alpha, effort);
      return change === null ? "–" : figure(change);
    }
    const ratio = s.worst && detectable(s.worst, power, request.alpha, s.residualDf);
    return ratio === null ? "–" : figure(ratio * sigma);
  };
  const heads = picked.map((_, i) => letterOf(i));
  const body = [
    ...POWERS.map((p) => [`sees at power ${p.toFixed(2)}, ${unit}`, ...picked.map((s) => seen(s, p))]),
    ...changes.map((c) => [
      `power at ${figure(c, 3)} ${unit}`,
      ...picked.map((s) => {
        const exact = counted[picked.indexOf(s)];
        return exact
          ? (exact.powerAt(c, request.alpha, effort)?.toFixed(2) ?? "–")
          : powerAt(s, c / sigma, request.alpha);
      }),
    ]),
  ];
  return (
    <div>
      <div className="row small" style={{ flexWrap: "wrap", margin: "6px 0 4px" }}>
        {request.counted === undefined && (
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
        )}
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
        <p className="small danger" role="alert">
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

const TIMES = [0.5, 1, 2, 4];
const COPIES = [1, 2, 3];

/** What a share or a count gains by more pieces of a trial, and by more trials, in the plan picked last. */
function Pieces({ planning: { study, picked, request, response, unit } }: { planning: Planning }) {
  const { counted } = request;
  const plan = picked[picked.length - 1];
  const rows = useMemo(() => {
    const exact = plan && countedPowerOf(study, plan, request);
    if (!counted || !exact) return [];
    return TIMES.map((times) => {
      const of = planningOf(counted).whole ? Math.max(1, Math.round(times * counted.of)) : times * counted.of;
      return {
        of,
        cells: COPIES.map((replicates) => ({
          seen: exact.detectable(request.power, request.alpha, { replicates, of }),
          cost: replicates * plan.n * (1 + of * (response?.pieceCost ?? 0)),
        })),
      };
    });
  }, [study, plan, request, counted, response]);
  if (!counted || !plan || !response || rows.length === 0) return null;
  const { lot } = kindOf(response);
  const what = lot.size(response) || lot.exposure;
  const enough = (seen: number | null): boolean =>
    response.smallest !== undefined && seen !== null && seen <= response.smallest;
  return (
    <section aria-label="More pieces or more trials">
      <h3 style={{ marginTop: 10 }}>
        More {lot.exposure}, or more trials, of {letterOf(picked.length - 1)}
      </h3>
      <table className={css.figures}>
        <thead>
          <tr>
            <th>{what} of a trial</th>
            {COPIES.map((c) => (
              <th key={c}>{c * plan.n} trials</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <tr key={r.of}>
              <td className="num">{figure(r.of, 4)}</td>
              {r.cells.map((c, i) => (
                <td
                  key={COPIES[i]}
                  className={`num ${enough(c.seen) ? "success" : ""}`}
                  title={`${figure(r.of * COPIES[i] * plan.n, 4)} ${what} in all`}
                >
                  {c.seen === null ? "–" : figure(c.seen, 2)}
                  {response.pieceCost === undefined ? "" : ` · cost ${figure(c.cost, 3)}`}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="small quiet">
        Smallest change seen, {unit}, at power {request.power.toFixed(2)}.{" "}
        {counted.excess > 1
          ? "Trials that scatter beyond counting gain more by further trials than by further pieces."
          : "Pieces count alike whichever trial they are from; further trials also judge the scatter."}
        {plan.strata && !plan.strata.reset
          ? " Set-ups vary as they do: what they alone tell gains by more of them."
          : ""}
        {response.pieceCost === undefined ? "" : " Cost in trials, pieces counted in."}
      </p>
    </section>
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
      <div>
        <PowerTable planning={planning} />
        <Pieces planning={planning} />
      </div>
    </div>
  );
}
