"use client";
import { Button, Checkbox } from "antd";
import { useRouter } from "next/navigation";
import { useState } from "react";
import { activeFactors, ofPolynomial, retireFactors, type Study, sharesOf } from "@/core";
import { useDesk } from "@/ui/desk/store";
import { useStudyView } from "@/ui/desk/view";
import { CopyRows } from "@/ui/parts/copy-rows";
import { percent, settingText } from "@/ui/parts/format";
import { say } from "@/ui/parts/say";
import css from "./model.module.css";

/** Weighted influence under which a factor is not ticked to be carried on. */
const FEW = 0.05;

/** How much each factor moves every response, and all of them as they count; the rest can be let go in one step. */
export function Influence({ study }: { study: Study }) {
  const id = useDesk((d) => d.id);
  const probe = useDesk((d) => d.probe);
  const commit = useDesk((d) => d.commit);
  const ask = useDesk((d) => d.ask);
  const router = useRouter();
  const figures = useStudyView();
  const [ticked, setTicked] = useState<readonly string[] | undefined>(undefined);
  const read = study.responses.flatMap((response) => {
    const found = figures.fitted(response.id);
    return found.ok ? [{ response, parts: ofPolynomial(study, found.fitted.predictor) }] : [];
  });
  const weights = sharesOf(read.map((r) => r.response));
  const rows = activeFactors(study)
    .map((factor) => {
      const shares = read.map((r) => r.parts.find((p) => p.factor === factor.id)?.total ?? 0);
      return { factor, shares, weighted: shares.reduce((t, s, i) => t + s * weights[i], 0) };
    })
    .sort((a, b) => b.weighted - a.weighted);
  if (read.length === 0 || rows.length < 2) return null;
  const kept = ticked ?? rows.filter((r) => r.weighted >= FEW).map((r) => r.factor.id);
  const gone = rows.filter((r) => !kept.includes(r.factor.id)).map((r) => r.factor);
  const retire = (): void => {
    const held = Object.fromEntries(gone.map((f) => [f.id, probe[f.id]]));
    const refused = commit(retireFactors(study, held), `retired ${gone.map((f) => f.name).join(", ")}`);
    if (refused) say(refused);
    else {
      say(`Retired: ${gone.map((f) => `${f.name} held at ${settingText(probe[f.id])}`).join(", ")}.`, "done");
      setTicked(undefined);
    }
  };
  const carry = (): void => {
    ask({ carry: { factors: kept } });
    router.push(`/studies/${id}/plan`);
  };
  return (
    <section aria-label="Influence of factors" style={{ marginTop: 14 }}>
      <div className="row" style={{ flexWrap: "wrap", gap: 8 }}>
        <h2 className="grow">What each factor moves</h2>
        <CopyRows
          what="Influence of factors"
          rows={[
            ["factor", ...read.map((r) => r.response.name), "weighted"],
            ...rows.map((r) => [r.factor.name, ...r.shares, r.weighted]),
          ]}
        />
      </div>
      <table className={`${css.table} ${css.matrix}`} data-testid="influence">
        <thead>
          <tr>
            <th>Factor</th>
            {read.map((r, i) => (
              <th key={r.response.id}>
                {r.response.name}
                <div className="quiet" style={{ fontWeight: 400 }}>
                  counts {percent(weights[i])}
                </div>
              </th>
            ))}
            <th>Weighted</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(({ factor, shares, weighted }) => (
            <tr key={factor.id}>
              <td>
                <Checkbox
                  checked={kept.includes(factor.id)}
                  onChange={(e) =>
                    setTicked(e.target.checked ? [...kept, factor.id] : kept.filter((f) => f !== factor.id))
                  }
                >
                  {factor.name}
                </Checkbox>
              </td>
              {shares.map((s, i) => (
                <td key={read[i].response.id}>{s === 0 ? "·" : percent(s)}</td>
              ))}
              <td>
                <strong>{percent(weighted)}</strong>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="small quiet" style={{ margin: "6px 0" }}>
        Share of a response’s variation over the ranges that goes with the factor, its interactions included, on the
        scale of its model; weighted by how much each response counts.
      </p>
      <div className="row" style={{ gap: 8, flexWrap: "wrap" }}>
        <Button disabled={kept.length < 2 || gone.length === 0} type="primary" onClick={carry}>
          Carry the {kept.length} ticked on
        </Button>
        <Button disabled={gone.length === 0 || kept.length === 0} onClick={retire}>
          {gone.length === 0
            ? "Retire the others"
            : `Retire the ${gone.length === 1 ? "other" : `other ${gone.length}`} at the probe`}
        </Button>
        {gone.length > 0 && (
          <span className="small quiet">
            {gone
              .slice(0, 4)
              .map((f) => `${f.name} at ${settingText(probe[f.id])}`)
              .join(", ")}
            {gone.length > 4 ? ", …" : ""}
          </span>
        )}
      </div>
    </section>
  );
}
