"use client";
import { Button } from "antd";
import type { ReactNode } from "react";
import { bestTrial, chanceText } from "@/core/findings";
import type { Candidate, CandidateResponse, SearchResult, SetpointProblem } from "@/core/setpoint";
import { activeFactors, type Response, type Settings, type Study, settingsAsRun, valueUnit } from "@/core/study";
import { useDesk } from "@/ui/desk/store";
import { Assumed, AssumedNote } from "@/ui/parts/assumed";
import { clip, ownError, percent, settingText, spanText, valueText } from "@/ui/parts/format";
import css from "./setpoint.module.css";

/** More figures than this, and candidates stand side by side as columns. */
const MOST_ACROSS = 10;

interface Cell {
  text: ReactNode;
  below?: ReactNode;
  title?: string;
}

/** A candidate, or the best trial beside them: a figure for each heading. */
interface Entry {
  key: string;
  head: ReactNode;
  title: string | undefined;
  settings: Settings;
  quiet: boolean;
  cells: Cell[];
}

const shortChance = (chance: number): string => chanceText(chance).replace("over ", ">").replace("under ", "<");

/** What a candidate promises of a response. */
function promise(p: CandidateResponse, r: Response, error: number | null): Cell {
  return {
    text: (
      <>
        {valueText(r, p.mean, error)}
        {(p.extrapolates || p.breaksBounds) && <span className="warning"> !</span>}
      </>
    ),
    below:
      p.meanInterval === null ? (
        ""
      ) : (
        <>
          {spanText(r, p.meanInterval, error)}
          <Assumed ratio={p.assumed} />
        </>
      ),
    title: `${p.mean}${p.trialInterval ? `; one ${r.several === "units" ? "unit" : "trial"} ${p.trialInterval.map((v) => valueText(r, v, error)).join(" to ")}` : ""}; desirability ${(p.desirability ?? 0).toFixed(3)}`,
  };
}

/** The chance of a candidate; where waves differ that of a new one, with that as in the last below. */
const chanceCell = (c: Candidate, ratio: number | undefined, byWaves: boolean): Cell =>
  c.chance === null
    ? { text: "–" }
    : {
        text: (
          <>
            {shortChance(c.chance)}
            <Assumed ratio={ratio} />
          </>
        ),
        ...(byWaves && typeof c.asIn?.chance === "number" ? { below: shortChance(c.asIn.chance) } : {}),
        title: `±${percent(2 * (c.chanceStandardError ?? 0), 1)}; ${percent(c.chanceIndependent ?? 0, 1)} if responses erred independently`,
      };

/** Chooses a candidate; what breaks a limit for certain is shown without. */
const Choose = ({ first, pick }: { first: boolean; pick(): void }) => (
  <Button
    size="small"
    type={first ? "primary" : "default"}
    onClick={(e) => {
      e.stopPropagation();
      pick();
    }}
  >
    Choose
  </Button>
);

/** Candidates on settable steps with what they promise: one a row, or one a column where there are many figures. */
export function Candidates({
  study,
  result,
  wishes: problem,
  stale,
  pick,
}: {
  study: Study;
  result: SearchResult;
  wishes: SetpointProblem;
  stale: boolean;
  pick(c: Candidate): void;
}) {
  const probe = useDesk((d) => d.probe);
  const setProbe = useDesk((d) => d.setProbe);
  const assumed = problem.responses.map((r) => ({ name: r.name, ratio: problem.predictors.get(r.id)?.assumed }));
  const spoken = new Set([...problem.predictors.values()].flatMap((p) => p.shownOf));
  const factors = activeFactors(study).filter((f) => spoken.has(f.id));
  const idle = activeFactors(study).filter((f) => !spoken.has(f.id));
  const nearest = bestTrial(problem);
  const run = nearest ? study.trials.find((t) => t.id === nearest.trial) : undefined;
  const same = (s: Settings): boolean => activeFactors(study).every((f) => s[f.id] === probe[f.id]);
  const errorAt = (r: Response, settings: Settings): number | null => {
    const read = problem.predictors.get(r.id);
    return read ? ownError(read.predict(settings), read.link) : null;
  };
  // Where waves differ a chance is that of a new one, with that of the last below.
  const asIn = result.candidates.find((c) => (c.asIn?.differ.length ?? 0) > 0)?.asIn;
  const last = study.waves.find((w) => w.id === asIn?.wave)?.name;
  const heads = [
    ...factors.map((f) => ({ key: f.id, name: f.name, unit: f.unit })),
    ...problem.responses.map((r) => ({ key: r.id, name: r.name, unit: valueUnit(r) })),
    { key: "@overall", name: "Overall", unit: undefined },
    { key: "@chance", name: "All limits", unit: last && `new wave / ${clip(last, 12)}` },
  ];
  const entries = result.candidates.map(
    (c, i): Entry => ({
      key: JSON.stringify(c.settings),
      head: (
        <>
          <strong className="accent">{i + 1}</strong> {c.overall > 0 && <Choose first={i === 0} pick={() => pick(c)} />}
        </>
      ),
      title: c.distance === null ? undefined : `Nearest trial run lies ${c.distance.toFixed(2)} coded units away`,
      settings: c.settings,
      quiet: false,
      cells: [
        ...factors.map((f) => ({ text: settingText(c.settings[f.id]) })),
        ...problem.responses.map((r) => promise(c.responses[r.id], r, errorAt(r, c.settings))),
        { text: <strong>{c.overall.toFixed(3)}</strong> },
        chanceCell(c, assumed.find((a) => a.ratio !== undefined)?.ratio, last !== undefined),
      ],
    }),
  );
  if (run && nearest) {
    const settings = settingsAsRun(run);
    entries.push({
      key: "@run",
      head: `trial ${nearest.order}`,
      title: "The best of the trials that were run, by the models",
      settings,
      quiet: true,
      cells: [
        ...factors.map((f) => ({ text: settingText(settings[f.id]) })),
        ...problem.responses.map((r) => ({
          text: valueText(r, problem.predictors.get(r.id)?.value(settings) ?? 0, errorAt(r, settings)),
        })),
        { text: nearest.overall.toFixed(3) },
        { text: "–" },
      ],
    });
  }
  const down = factors.length + problem.responses.length > MOST_ACROSS;
  const cell = (e: Entry, i: number) => (
    <td
      key={`${e.key} ${heads[i].key}`}
      className={e.quiet ? "quiet" : undefined}
      title={e.cells[i].title}
      {...(down ? { "data-chosen": same(e.settings) ? "yes" : "no", onClick: () => setProbe(e.settings) } : {})}
    >
      {e.cells[i].text}
      {e.cells[i].below !== undefined && <small>{e.cells[i].below}</small>}
    </td>
  );
  return (
    <div style={{ overflowX: "auto", opacity: stale ? 0.6 : 1 }}>
      <table className={css.table} data-testid="candidates" data-down={down ? "yes" : undefined}>
        {down ? (
          <>
            <thead>
              <tr>
                <th />
                {entries.map((e) => (
                  <th key={e.key} scope="col" title={e.title} data-chosen={same(e.settings) ? "yes" : "no"}>
                    {e.head}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {heads.map((h, i) => (
                <tr key={h.key} data-first={i === factors.length || h.key === "@overall" ? "yes" : undefined}>
                  <th scope="row">
                    {h.name}
                    {h.unit && <span className="quiet">, {h.unit}</span>}
                  </th>
                  {entries.map((e) => cell(e, i))}
                </tr>
              ))}
            </tbody>
          </>
        ) : (
          <>
            <thead>
              <tr>
                <th />
                {heads.map((h) => (
                  <th key={h.key} scope="col">
                    {h.name}
                    {(h.unit !== undefined || !h.key.startsWith("@")) && <small>{h.unit ?? "\u00a0"}</small>}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {entries.map((e) => (
                <tr
                  key={e.key}
                  data-chosen={same(e.settings) ? "yes" : "no"}
                  onClick={() => setProbe(e.settings)}
                  title={e.title}
                >
                  <td style={{ fontFamily: "var(--sans)" }}>{e.head}</td>
                  {heads.map((_, i) => cell(e, i))}
                </tr>
              ))}
            </tbody>
          </>
        )}
      </table>
      <p className="small quiet" style={{ marginTop: 4 }}>
        ± is half the {Math.round(100 * study.confidence)} % interval of the mean. “!”: outside what trials cover, or
        past a physical bound.
        {idle.length > 0
          ? ` ${idle.map((f) => f.name).join(", ")} ${idle.length === 1 ? "is" : "are"} in no model and ${idle.length === 1 ? "stands" : "stand"} at ${idle.map((f) => settingText(result.candidates[0]?.settings[f.id])).join(", ")}.`
          : ""}{" "}
        Exact optimum {result.best.overall.toFixed(3)}, seed {result.seed}.
      </p>
      <AssumedNote of={assumed} />
    </div>
  );
}
