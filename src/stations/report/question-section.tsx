"use client";
import { goalText, rangeText } from "@/core/formats";
import { importancePercents } from "@/core/model";
import { forbiddenText, heldAt, isActive, limitText, valueUnit } from "@/core/study";
import { DesirabilityCurve } from "@/ui/charts/desirability-curve";
import { axisName, settingText } from "@/ui/parts/format";
import type { SectionProps } from "./section";

/** What was asked: responses with their goals, factors with what they can be set to, the region. */
export function QuestionSection({ study }: SectionProps) {
  const counted = study.responses.filter((r) => r.goal.aim !== "watch");
  const shares = new Map(importancePercents(counted).map((s, i) => [counted[i].id, s]));
  return (
    <section>
      <h2>Question</h2>
      <table>
        <thead>
          <tr>
            <th>Response</th>
            <th>Aim</th>
            <th>Limits</th>
            <th data-n>Importance</th>
            <th data-n>Noise</th>
            <th data-n>Smallest change</th>
            <th>Desirability</th>
          </tr>
        </thead>
        <tbody>
          {study.responses.map((r) => (
            <tr key={r.id}>
              <td>{axisName(r.name, valueUnit(r))}</td>
              <td>{r.goal.aim}</td>
              <td>{goalText(r.goal, r)}</td>
              <td data-n>{shares.has(r.id) ? `${shares.get(r.id)} %` : "–"}</td>
              <td data-n>{r.noise ?? "–"}</td>
              <td data-n>{r.smallest ?? "–"}</td>
              <td>
                <DesirabilityCurve goal={r.goal} name={r.name} width={90} height={20} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <table>
        <thead>
          <tr>
            <th />
            <th>Factor</th>
            <th>Range or levels</th>
            <th data-n>Step</th>
            <th data-n>± set</th>
            <th>To change</th>
          </tr>
        </thead>
        <tbody>
          {study.factors.map((f) => (
            <tr key={f.id}>
              <td>{f.letter}</td>
              <td>{axisName(f.name, f.unit)}</td>
              <td>{isActive(f) ? rangeText(f) : `retired, held at ${settingText(heldAt(f))}`}</td>
              <td data-n>{f.kind === "continuous" ? (f.step ?? "–") : ""}</td>
              <td data-n>{f.kind === "continuous" ? (f.tolerance ?? "–") : ""}</td>
              <td>{f.change}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {study.region.limits.map((l) => (
        <p key={limitText(study, l)}>Limit: {limitText(study, l)}</p>
      ))}
      {study.region.forbidden.map((c) => (
        <p key={forbiddenText(study, c)}>Never: {forbiddenText(study, c)}</p>
      ))}
    </section>
  );
}
