// biome-ignore-all lint/a11y/noStaticElementInteractions: pointing only lights what stands elsewhere too.
// biome-ignore-all lint/a11y/useSemanticElements: drawings and grids drawn in part have no elements of these kinds.
"use client";
import { Button } from "antd";
import { useEffect, useMemo, useRef, useState } from "react";
import {
  alphabetOf,
  averagedPredictor,
  type Edit,
  edit,
  type Fit,
  figure,
  inModelOrder,
  type Model,
  modelWeights,
  type Study,
  type SubsetModel,
  storedModel,
  type Term,
  termKey,
  termLetters,
  termName,
} from "@/core";
import { AxisX, AxisY, type Box, linear } from "@/ui/charts/axes";
import { pathThrough } from "@/ui/charts/paths";
import { useQuestion } from "@/ui/compute/use-question";
import { useDesk } from "@/ui/desk/store";
import { useStudyView } from "@/ui/desk/view";
import { CopyRows } from "@/ui/parts/copy-rows";
import { axisName, rounded, shareText } from "@/ui/parts/format";
import { Pick } from "@/ui/parts/pick";
import { Quick } from "@/ui/parts/quick";
import { say } from "@/ui/parts/say";
import { colours } from "@/ui/theme/theme";
import { setTerms } from "../actions";
import css from "../model.module.css";
import type { ViewProps } from "./view";

const CRITERIA = {
  aicc: { name: "AICc", low: true },
  bic: { name: "BIC", low: true },
  r2Adjusted: { name: "adjusted R²", low: false },
  r2Predicted: { name: "predicted R²", low: false },
} as const;
type CriterionName = keyof typeof CRITERIA;
const MOST_TERMS = 30;
const W = 400;
const H = 210;

const setKey = (terms: readonly Term[]): string => terms.map(termKey).sort().join("|");

/** What a model has more and less than another, in words. */
function difference(study: Study, from: readonly Term[], to: readonly Term[]): string {
  const alphabet = alphabetOf(study);
  const present = new Set(from.map(termKey));
  const has = new Set(to.map(termKey));
  const list = (terms: readonly Term[]): string =>
    terms.length > 4 ? `${terms.length} terms` : terms.map((t) => termLetters(alphabet, t)).join(", ");
  const more = to.filter((t) => !present.has(termKey(t)));
  const less = from.filter((t) => !has.has(termKey(t)));
  if (more.length === 0 && less.length === 0) return "the present model";
  return [more.length > 0 ? `adds ${list(more)}` : "", less.length > 0 ? `leaves out ${list(less)}` : ""]
    .filter(Boolean)
    .join(", ");
}

/** Stores what a response's rivals are and how they are averaged. */
function setRivals(study: Study, response: string, fit: Fit, rivals: Term[][], average: Model["average"]): Edit[] {
  const stored = storedModel(study, response);
  const base: Model = stored ?? { response, ...fit.fitting, terms: fit.terms };
  const { rivals: _rivals, average: _average, ...rest } = base;
  const next: Model = {
    ...rest,
    ...(rivals.length > 0 ? { rivals } : {}),
    ...(average && rivals.length > 1 ? { average } : {}),
  };
  return [edit(study, ["models", response], next)];
}

/** All subsets in one chart, the best of each size in words, those kept side by side, and their average. */
export function RivalsView({ study, fitted }: ViewProps) {
  const commit = useDesk((d) => d.commit);
  const { fit } = fitted;
  const { response } = fit;
  const alphabet = alphabetOf(study);
  const about = study.responses.find((r) => r.id === response);
  const [by, setBy] = useState<CriterionName>("aicc");
  const { running, progress, result, trouble, start, stop } = useQuestion("subsets");
  const stored = storedModel(study, response);
  const kept = useMemo(() => stored?.rivals ?? [], [stored]);
  // Candidates: what these trials can tell beside the rest, the largest first when there are more than can be searched.
  const candidates = useMemo(() => {
    const usable = fitted.ladder.rungs.filter((r) => !r.lost || r.inModel);
    const parents = new Set(usable.slice(0, MOST_TERMS).flatMap((r) => r.term.map((id) => termKey([id]))));
    const first = usable.filter((r) => r.inModel || (r.term.length === 1 && parents.has(r.key)));
    const rest = usable.filter((r) => !first.includes(r));
    return inModelOrder(
      alphabetOf(study),
      [...first, ...rest].slice(0, MOST_TERMS).map((r) => r.term),
    );
  }, [study, fitted]);
  // The best by predicted R² cost three times the search where terms are many: looked for when asked about.
  const predicted = by === "r2Predicted";
  const { transform, block, curvature, eta } = fit.fitting;
  // Asked anew when what the models are fitted to is another thing: results gathered, scale, waves, candidates.
  const wanted = setKey(candidates);
  const latest = useRef({ study, candidates });
  latest.current = { study, candidates };
  // biome-ignore lint/correctness/useExhaustiveDependencies: `fit.data` and the candidates' key say what it rests on.
  useEffect(() => {
    start(latest.current.study, {
      response,
      terms: latest.current.candidates,
      average: true,
      ...(predicted ? { predicted } : {}),
    });
  }, [fit.data, transform, block, curvature, eta, wanted, predicted, response, start]);
  const told = (refused: string | undefined): void => {
    if (refused) say(refused);
  };
  const change = (rivals: Term[][], average: Model["average"], what: string): void =>
    told(commit(setRivals(study, response, fit, rivals, average), what));
  const use = (terms: readonly Term[]): void =>
    told(commit(setTerms(study, response, terms), `took a rival model of ${about?.name}`));
  const keep = (terms: readonly Term[]): void => {
    if (kept.some((k) => setKey(k) === setKey(terms))) return;
    change([...kept, [...terms]], stored?.average, "kept a rival model");
  };
  const criterion = CRITERIA[by];
  const models = (result?.models ?? []).filter((m) => m[by] !== null);
  const value = (m: SubsetModel): number => m[by] as number;
  const better = (a: SubsetModel, b: SubsetModel): number =>
    criterion.low ? value(a) - value(b) : value(b) - value(a);
  const here = setKey(fit.terms);
  const bySize = [...new Map([...models].sort((a, b) => -better(a, b)).map((m) => [m.k, m])).values()].sort(
    (a, b) => a.k - b.k,
  );
  const shown = [...models].sort(better);
  const best = shown[0];
  // Models far worse than the best of their size would press the rest together.
  const span = bySize.map(value);
  const far = best ? (criterion.low ? Math.max(...span) : Math.min(...span)) : 0;
  const within = (m: SubsetModel): boolean => {
    const v = value(m);
    const edge = criterion.low ? Math.min(far, value(best) + 40) : Math.max(far, value(best) - 0.6);
    return criterion.low ? v <= edge : v >= edge;
  };
  const drawn = shown.filter(within);
  const box: Box = { left: 56, top: 10, width: W - 70, height: H - 52 };
  const x = linear([-0.4, Math.max(1, ...drawn.map((m) => m.k)) + 0.4], [box.left, box.left + box.width]);
  const values = drawn.map(value);
  const pad = (Math.max(...values) - Math.min(...values)) * 0.06 || 1;
  const y = linear(
    criterion.low
      ? [Math.max(...values) + pad, Math.min(...values) - pad]
      : [Math.min(...values) - pad, Math.max(...values) + pad],
    [box.top + box.height, box.top],
  );
  const view = useStudyView(study);
  const keptFits = view.rivalFits(fit, kept);
  const weights =
    keptFits.length > 1
      ? modelWeights(
          keptFits.map((k) => k.fit),
          stored?.average ?? "akaike",
        )
      : [];
  const average =
    keptFits.length > 1
      ? averagedPredictor(
          study,
          keptFits.map((k) => k.fit),
          stored?.average ?? "akaike",
          fit,
        )
      : undefined;
  const rows: { name: string; of(f: Fit): string }[] = [
    { name: "coefficients", of: (f) => String(f.parameters.length) },
    { name: "R²", of: (f) => shareText(f.summary.r2) },
    { name: "adjusted", of: (f) => shareText(f.summary.r2Adjusted) },
    { name: "predicted", of: (f) => shareText(f.summary.r2Predicted) },
    { name: "s", of: (f) => (f.summary.s === null ? "–" : figure(f.summary.s, 3)) },
    { name: "AICc", of: (f) => f.summary.aicc?.toFixed(1).replace("-", "−") ?? "–" },
    { name: "BIC", of: (f) => f.summary.bic?.toFixed(1).replace("-", "−") ?? "–" },
    { name: "largest error", of: (f) => figure(Math.max(...f.trials.map((t) => Math.abs(t.residual))), 2) },
  ];
  const keptTerms = inModelOrder(alphabet, kept.flat());
  return (
    <div>
      <div className="row small" style={{ marginBottom: 4, flexWrap: "wrap" }}>
        <span className="grow quiet" role="status">
          {running
            ? `${progress?.text ?? "Looking at all subsets"}…`
            : result
              ? `${result.examined.toLocaleString("en")} models of ${candidates.length} terms, hierarchy kept${result.singular > 0 ? `; ${result.singular.toLocaleString("en")} that these trials cannot tell left out` : ""}.`
              : (trouble ?? "")}
        </span>
        {running && <Button onClick={stop}>Stop</Button>}
        <label className="row" style={{ gap: 4 }}>
          by
          <Pick
            label="Criterion"
            value={by}
            options={Object.entries(CRITERIA).map(([id, c]) => [id as CriterionName, c.name])}
            set={setBy}
          />
        </label>
      </div>
      {drawn.length > 0 && (
        <svg
          width="100%"
          viewBox={`0 0 ${W} ${H}`}
          role="group"
          aria-label={`${drawn.length} models, ${criterion.name} against number of columns`}
        >
          <AxisX scale={x} box={box} name="columns of terms" ticks={x.ticks(8).filter(Number.isInteger)} />
          <AxisY scale={y} box={box} name={`${criterion.name}, better upwards`} count={5} grid offset={44} />
          <path d={pathThrough(bySize.filter(within).map((m) => [x(m.k), y(value(m))]))} fill="none" stroke="#B8AC90" />
          {drawn.map((m) => {
            const now = setKey(m.terms) === here;
            const isKept = kept.some((k) => setKey(k) === setKey(m.terms));
            return (
              <circle
                key={setKey(m.terms)}
                cx={x(m.k)}
                cy={y(value(m))}
                r={now ? 6 : isKept ? 5 : 3.2}
                fill={now ? colours.heather : isKept ? colours.gorse : colours.paper}
                stroke={now || isKept ? colours.ink : "#8b8c82"}
                style={{ cursor: "pointer" }}
                onClick={() => use(m.terms)}
              >
                <title>{`${m.terms.map((t) => termName(alphabet, t)).join(", ") || "constant only"}: ${criterion.name} ${figure(value(m), 4)}`}</title>
              </circle>
            );
          })}
        </svg>
      )}
      {bySize.length > 0 && (
        <>
          <h2 style={{ margin: "6px 0 2px" }}>Best of each size</h2>
          <table className={`${css.table} ${css.tight}`} data-testid="rivals">
            <thead>
              <tr>
                <th title="columns of terms">size</th>
                <th style={{ textAlign: "left" }}>against the present model</th>
                <th>{criterion.name}</th>
                <th aria-label="act" />
              </tr>
            </thead>
            <tbody>
              {bySize
                .filter((m) => within(m) || setKey(m.terms) === here)
                .map((m) => (
                  <tr key={m.k} style={m === best ? { background: "var(--heather-light)" } : undefined}>
                    <td>{m.k}</td>
                    <td style={{ textAlign: "left", whiteSpace: "normal", fontFamily: "var(--sans)", fontSize: 12.5 }}>
                      {difference(study, fit.terms, m.terms)}
                    </td>
                    <td>
                      {value(m)
                        .toFixed(by === "aicc" || by === "bic" ? 1 : 3)
                        .replace("-", "−")}
                    </td>
                    <td>
                      {setKey(m.terms) !== here && (
                        <Quick className="small" onClick={() => use(m.terms)}>
                          use
                        </Quick>
                      )}{" "}
                      {!kept.some((k) => setKey(k) === setKey(m.terms)) && (
                        <Quick className="small" onClick={() => keep(m.terms)}>
                          keep
                        </Quick>
                      )}
                    </td>
                  </tr>
                ))}
            </tbody>
          </table>
        </>
      )}
      <div className="row" style={{ margin: "12px 0 2px" }}>
        <h2 className="grow">Kept side by side</h2>
        {!kept.some((k) => setKey(k) === here) && (
          <Quick className="small" onClick={() => keep(fit.terms)}>
            keep the present model
          </Quick>
        )}
        {kept.length === 0 && shown.length > 1 && (
          <Quick
            className="small"
            title="All listed models within 2 of the best AICc, at most six"
            onClick={() => {
              const close = [...(result?.models ?? [])]
                .filter((m) => m.aicc !== null && m.aicc - (result?.models[0].aicc ?? 0) <= 2)
                .slice(0, 6);
              change(
                close.map((m) => m.terms),
                stored?.average,
                "kept the models as good as the best",
              );
            }}
          >
            keep all as good as the best
          </Quick>
        )}
        {kept.length > 0 && (
          <CopyRows
            what="Rivals"
            rows={[
              ["", ...kept.map((_, i) => `model ${i + 1}`)],
              ...rows.map((r) => [r.name, ...keptFits.map((k) => r.of(k.fit))]),
            ]}
          />
        )}
      </div>
      {kept.length === 0 ? (
        <p className="small quiet">
          Several models are often as good. Keep some to see them beside each other, and to average them.
        </p>
      ) : (
        <>
          <div style={{ overflowX: "auto" }}>
            <table className={`${css.table} ${css.tight}`}>
              <thead>
                <tr>
                  <th>term</th>
                  {average && <th title="sum of the weights of the models that hold the term">evidence</th>}
                  {average && <th title="coefficient averaged over the models, zeros included">average</th>}
                  {kept.map((k, i) => (
                    <th key={setKey(k)}>
                      <Quick title="Use this model" onClick={() => use(k)}>
                        {i + 1}
                        {setKey(k) === here ? " ●" : ""}
                      </Quick>{" "}
                      <Quick
                        aria-label={`Let go of model ${i + 1}`}
                        onClick={() =>
                          change(
                            kept.filter((o) => o !== k),
                            stored?.average,
                            "let go of a rival model",
                          )
                        }
                      >
                        ×
                      </Quick>
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {keptTerms.map((t) => {
                  const key = termKey(t);
                  const evidence = kept.reduce(
                    (sum, k, i) => sum + (k.some((u) => termKey(u) === key) ? (weights[i] ?? 0) : 0),
                    0,
                  );
                  const mean = average?.basis.find((c) => c.column.key === key)?.value;
                  return (
                    <tr key={key}>
                      <td title={termName(alphabet, t)}>{termLetters(alphabet, t)}</td>
                      {average && <td>{evidence.toFixed(2)}</td>}
                      {average && <td>{mean === undefined ? "" : figure(mean, 3)}</td>}
                      {keptFits.map((k) => {
                        const p = k.fit.parameters.find((q) => termKey(q.term) === key);
                        return <td key={setKey(k.terms)}>{p ? rounded(p.coefficient, p.standardError) : "·"}</td>;
                      })}
                    </tr>
                  );
                })}
                {rows.map((r) => (
                  <tr key={r.name}>
                    <td style={{ whiteSpace: "nowrap" }}>{r.name}</td>
                    {average && <td colSpan={2} />}
                    {keptFits.map((k) => (
                      <td key={setKey(k.terms)}>{r.of(k.fit)}</td>
                    ))}
                  </tr>
                ))}
                {average && (
                  <tr>
                    <td>weight</td>
                    <td colSpan={2} />
                    {weights.map((w, i) => (
                      <td key={setKey(kept[i])}>{w.toFixed(2)}</td>
                    ))}
                  </tr>
                )}
              </tbody>
            </table>
          </div>
          {average && (
            <label className="row small" style={{ marginTop: 6, gap: 6, flexWrap: "wrap" }}>
              Predict {axisName(about?.name ?? "", undefined)} everywhere with
              <Pick
                label="Predict with"
                value={stored?.average ?? "one"}
                options={[
                  ["one", "the present model"],
                  ["akaike", "the average of these, by their AICc"],
                  ["equal", "the average of these, equal weights"],
                ]}
                set={(average) =>
                  change(
                    kept,
                    average === "one" ? undefined : average,
                    average === "one" ? "predicted with one model again" : "predicted with an average",
                  )
                }
              />
            </label>
          )}
        </>
      )}
      {trouble && (
        <p className="small rowan" role="alert">
          {trouble}
        </p>
      )}
    </div>
  );
}
