"use client";
import { Button } from "antd";
import { useMemo, useState } from "react";
import { type AlternativeFit, alternativeFits, equationOf, type Fit, type Parameter } from "@/core/model";
import { alphabetOf, type Study, StudyError, termKey, termName } from "@/core/study";
import { useDesk } from "@/ui/desk/store";
import { useStudyView } from "@/ui/desk/view";
import { CopyRows } from "@/ui/parts/copy-rows";
import { figure, pShown, shareText } from "@/ui/parts/format";
import { Pick } from "@/ui/parts/pick";
import { say } from "@/ui/parts/say";
import { ScrollBox } from "@/ui/parts/scroll-box";
import { colours } from "@/ui/theme/theme";
import { setFitting, setTerms } from "../actions";
import css from "../model.module.css";
import type { ViewProps } from "./view";

const SETS = { main: "main effects", "main+2fi": "main effects and interactions", quadratic: "full quadratic" };

/** What a way of fitting is called. */
function wayText(study: Study, way: AlternativeFit): string {
  const nameOf = (list: readonly { id: string; name: string }[], id: string): string =>
    list.find((x) => x.id === id)?.name ?? id;
  switch (way.by) {
    case "terms":
      return SETS[way.set];
    case "rival":
      return `rival ${way.place + 1} that was kept`;
    case "scale":
      return way.transform === "none" ? "as measured, not on another scale" : `on the scale ${String(way.transform)}`;
    case "blocks":
      return way.block ? "with waves in the model" : "without waves in the model";
    case "wave":
      return way.how === "alone"
        ? `${nameOf(study.waves, way.wave)} alone`
        : `without ${nameOf(study.waves, way.wave)}`;
    case "categories":
      return `${nameOf(study.factors, way.factor)} as categories`;
  }
}

const idOf = (way: AlternativeFit): string => Object.values(way).join(" ");
const keyOf = (p: Parameter): string => `${termKey(p.term)} ${p.level ?? ""}`;

const SUMMARY: [name: string, of: (fit: Fit) => string][] = [
  ["trials", (f) => String(f.n)],
  ["columns", (f) => String(f.parameters.length)],
  ["residual df", (f) => String(f.summary.residualDf)],
  ["s", (f) => (f.summary.s === null ? "–" : `${figure(f.summary.s, 3)} ${f.model.unit ?? ""}`)],
  ["R²", (f) => shareText(f.summary.r2)],
  ["adjusted", (f) => shareText(f.summary.r2Adjusted)],
  ["predicted", (f) => shareText(f.summary.r2Predicted)],
  ["AICc", (f) => f.summary.aicc?.toFixed(1).replace("-", "−") ?? "–"],
];

/** A coefficient with its p, or nothing where a model has no such column. */
function Coefficient({ of }: { of: Parameter | undefined }) {
  if (!of) return <td className="quiet">·</td>;
  return (
    <td title={String(of.coefficient)}>
      {figure(of.coefficient, 3)} <span className="quiet small">{of.p === null ? "" : pShown(of.p)}</span>
    </td>
  );
}

/** Two models of the same response side by side: what changes with other terms, another scale, other waves. */
export function BesideView({ study, fitted }: ViewProps) {
  const commit = useDesk((d) => d.commit);
  const view = useStudyView(study);
  const { fit } = fitted;
  const ways = useMemo(() => alternativeFits(study, fit), [study, fit]);
  const [chosen, setChosen] = useState<string | undefined>(undefined);
  const way = ways.find((w) => idOf(w) === chosen) ?? ways[0];
  const other = useMemo(() => {
    if (!way) return undefined;
    try {
      return { ok: true as const, ...view.alternative(fit, way) };
    } catch (error) {
      if (!(error instanceof StudyError)) throw error;
      return { ok: false as const, sentence: error.message };
    }
  }, [view, fit, way]);
  if (!way || !other) return <p className="quiet">These trials allow no other model to stand beside this one.</p>;
  const alphabet = alphabetOf(study);
  const name = (p: Parameter): string => `${termName(alphabet, p.term)}${p.level ? ` [${p.level}]` : ""}`;
  const mine = fit.parameters;
  const theirs = other.ok ? other.fit.parameters : [];
  const all = [...mine, ...theirs.filter((p) => !mine.some((m) => keyOf(m) === keyOf(p)))];
  const find = (list: readonly Parameter[], p: Parameter) => list.find((x) => keyOf(x) === keyOf(p));
  const scales = other.ok && JSON.stringify(fit.transform) !== JSON.stringify(other.fit.transform);
  const lost = other.ok ? other.fit.dropped.length : 0;
  const takeUp = (): void => {
    if (!other.ok) return;
    const edits =
      way.by === "scale"
        ? setFitting(study, fit, { transform: way.transform })
        : way.by === "blocks"
          ? setFitting(study, fit, { block: way.block })
          : setTerms(study, fit.response, other.fit.terms);
    const refused = commit(edits, `took up ${wayText(study, way)}`);
    if (refused) say(refused);
  };
  return (
    <div>
      <div className="row" style={{ flexWrap: "wrap", gap: 6, marginBottom: 6 }}>
        <span>Beside the present model:</span>
        <Pick
          label="Other model"
          value={idOf(way)}
          options={ways.map((w) => [idOf(w), wayText(study, w)])}
          set={setChosen}
        />
        {other.ok && way.by !== "wave" && way.by !== "categories" && (
          <Button size="small" onClick={takeUp}>
            Use it
          </Button>
        )}
        <span className="grow" />
        {other.ok && (
          <CopyRows
            what="Both models"
            rows={[
              ["term", "present", "its p", wayText(study, way), "its p"],
              ...all.map((p) => [
                name(p),
                find(mine, p)?.coefficient,
                find(mine, p)?.p,
                find(theirs, p)?.coefficient,
                find(theirs, p)?.p,
              ]),
            ]}
          />
        )}
      </div>
      {!other.ok ? (
        <p className="warning" role="alert">
          {other.sentence}
        </p>
      ) : (
        <>
          <ScrollBox name="The present model and the other">
            <table className={`${css.table} ${css.tight}`} data-testid="beside">
              <thead>
                <tr>
                  <th>Coded coefficient</th>
                  <th>present</th>
                  <th>{wayText(study, way)}</th>
                </tr>
              </thead>
              <tbody>
                {all.map((p) => (
                  <tr key={keyOf(p)}>
                    <td>{name(p)}</td>
                    <Coefficient of={find(mine, p)} />
                    <Coefficient of={find(theirs, p)} />
                  </tr>
                ))}
                {SUMMARY.map(([label, of], i) => (
                  <tr key={label} style={i === 0 ? { borderTop: `2px solid ${colours.hairline}` } : {}}>
                    <td>{label}</td>
                    <td>{of(fit)}</td>
                    <td>{of(other.fit)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </ScrollBox>
          <p className="small quiet">
            {scales
              ? "The two stand on different scales: compare what they say of trials (R² predicted), not their s or coefficients. "
              : ""}
            {fit.n === other.fit.n ? "" : "AICc compares models of the same trials only. "}
            {lost > 0 ? `${lost === 1 ? "One term" : `${lost} terms`} cannot be told by these trials. ` : ""}
            {way.by === "categories"
              ? "A category has a mean of its own at every setting; squares of it are left out. "
              : ""}
          </p>
          <h2 style={{ marginTop: 8 }}>Present</h2>
          <div className={css.equation}>{equationOf(study, fit).coded}</div>
          <h2 style={{ marginTop: 8 }}>{wayText(study, way)}</h2>
          <div className={css.equation}>{equationOf(other.study, other.fit).coded}</div>
        </>
      )}
    </div>
  );
}
