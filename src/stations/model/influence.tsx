"use client";
import { Button, Checkbox, InputNumber } from "antd";
import { useRouter } from "next/navigation";
import { useEffect, useMemo, useState } from "react";
import { importanceShares } from "@/core/model";
import type { QuestionAnswer } from "@/core/questions";
import { type Factor, isActive, isNumeric, retireFactors, type Setting, type Study } from "@/core/study";
import { useQuestion } from "@/ui/compute/use-question";
import { useDesk } from "@/ui/desk/store";
import { CopyRows } from "@/ui/parts/copy-rows";
import { percent } from "@/ui/parts/format";
import { LinkButton } from "@/ui/parts/link-button";
import { Pick } from "@/ui/parts/pick";
import { say } from "@/ui/parts/say";
import css from "./model.module.css";

/** Share under which a factor is not ticked to be carried on. */
const FEW = 0.05;
/** After a change of the study, before its influence is worked out again, in milliseconds. */
const REST = 250;

/** The column that all responses together have. */
const ALL = "";

/** What each factor moves, worked out beside the page; the last answer stays until the next is there. */
function useInfluence(study: Study): { answer: QuestionAnswer<"influence"> | undefined; late: boolean } {
  const [answer, setAnswer] = useState<QuestionAnswer<"influence"> | undefined>(undefined);
  const { start, running, trouble } = useQuestion("influence", undefined, setAnswer);
  const { models, trials, factors, responses } = study;
  // biome-ignore lint/correctness/useExhaustiveDependencies: a note or a title moves nothing.
  useEffect(() => {
    const timer = setTimeout(() => start(study, {}), answer ? REST : 0);
    return () => clearTimeout(timer);
  }, [models, trials, factors, responses]);
  return { answer: trouble ? undefined : answer, late: running };
}

/** What a factor that is let go is held at. */
function HeldAt({ factor, value, set }: { factor: Factor; value: Setting; set(value: Setting): void }) {
  const label = `${factor.name} held at`;
  if (!isNumeric(factor))
    return <Pick label={label} value={String(value)} options={factor.levels.map((l) => [l, l])} set={set} />;
  if (factor.kind === "discrete")
    return (
      <Pick
        label={label}
        value={String(value)}
        options={factor.values.map((v) => [String(v), String(v)])}
        set={(v) => set(Number(v))}
      />
    );
  return (
    <InputNumber
      size="small"
      aria-label={label}
      value={value as number}
      min={factor.hardLow ?? factor.low}
      max={factor.hardHigh ?? factor.high}
      {...(factor.step === undefined ? {} : { step: factor.step })}
      onChange={(v) => v !== null && set(v)}
      style={{ width: 92 }}
    />
  );
}

/** How much each factor moves every response, and all of them as they count; the rest can be let go in one step. */
export function Influence({ study }: { study: Study }) {
  const id = useDesk((d) => d.id);
  const probe = useDesk((d) => d.probe);
  const commit = useDesk((d) => d.commit);
  const ask = useDesk((d) => d.ask);
  const router = useRouter();
  const { answer, late } = useInfluence(study);
  const [by, setBy] = useState(ALL);
  const [ticked, setTicked] = useState<readonly string[] | undefined>(undefined);
  const [held, setHeld] = useState<Record<string, Setting>>({});
  const rows = useMemo(() => {
    const size = (f: QuestionAnswer<"influence">["factors"][number]): number =>
      by === ALL ? f.share : (f.responses[by] ?? 0);
    return [...(answer?.factors ?? [])]
      .flatMap((f) => {
        const factor = study.factors.find((x) => x.id === f.factor);
        return factor && isActive(factor) ? [{ ...f, about: factor }] : [];
      })
      .sort((a, b) => size(b) - size(a));
  }, [answer, by, study.factors]);
  if (!answer || rows.length < 2) return null;
  const read = study.responses.filter((r) => r.id in rows[0].responses);
  const weights = importanceShares(read);
  const kept = (ticked ?? rows.filter((r) => r.share >= FEW).map((r) => r.factor)).filter((f) =>
    rows.some((r) => r.factor === f),
  );
  const gone = rows.filter((r) => !kept.includes(r.factor)).map((r) => r.about);
  const heldAt = (f: Factor): Setting => held[f.id] ?? probe[f.id];
  const carry = (): void => {
    const what = `retired ${gone.map((f) => f.name).join(", ")}, carried the rest on`;
    const refused = commit(retireFactors(study, Object.fromEntries(gone.map((f) => [f.id, heldAt(f)]))), what);
    if (refused) {
      say(refused);
      return;
    }
    ask({ carry: { factors: kept } });
    setTicked(undefined);
    router.push(`/studies/${id}/plan`);
  };
  const head = (key: string, name: string, more?: string) => (
    <th key={key} aria-sort={by === key ? "descending" : "none"}>
      <LinkButton onClick={() => setBy(key)} title={`Sort by ${name}`}>
        {name}
        {by === key ? " ▾" : ""}
      </LinkButton>
      {more && (
        <div className="quiet" style={{ fontWeight: 400 }}>
          {more}
        </div>
      )}
    </th>
  );
  return (
    <section aria-label="Influence of factors" style={{ marginTop: 14, opacity: late ? 0.55 : 1 }} aria-busy={late}>
      <div className="row" style={{ flexWrap: "wrap", gap: 8 }}>
        <h2 className="grow">What each factor moves</h2>
        <CopyRows
          what="Influence of factors"
          rows={[
            ["factor", ...read.map((r) => r.name), "weighted"],
            ...rows.map((r) => [r.about.name, ...read.map((x) => r.responses[x.id]), r.share]),
          ]}
        />
      </div>
      <table className={`${css.table} ${css.matrix}`} data-testid="influence">
        <thead>
          <tr>
            <th>Factor</th>
            {head(ALL, "Weighted", "together 100 %")}
            <th>Held at</th>
            {read.map((r, i) => head(r.id, r.name, `counts ${percent(weights[i])}`))}
          </tr>
        </thead>
        <tbody>
          {rows.map(({ factor, about, share, responses }) => (
            <tr key={factor} data-kept={kept.includes(factor) ? "yes" : "no"}>
              <td>
                <Checkbox
                  checked={kept.includes(factor)}
                  onChange={(e) => setTicked(e.target.checked ? [...kept, factor] : kept.filter((f) => f !== factor))}
                >
                  {about.name}
                </Checkbox>
              </td>
              <td>
                <span className={css.worth} style={{ width: `${Math.round(60 * share)}px` }} />
                <strong>{percent(share)}</strong>
              </td>
              <td>
                {kept.includes(factor) ? (
                  <span className="quiet">varies</span>
                ) : (
                  <HeldAt factor={about} value={heldAt(about)} set={(v) => setHeld({ ...held, [factor]: v })} />
                )}
              </td>
              {read.map((r) => (
                <td key={r.id}>{responses[r.id] === 0 ? "·" : percent(responses[r.id])}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {answer.readings.map((r) => (
        <p key={r.text} className="small warning">
          {r.text}
        </p>
      ))}
      <p className="small quiet" style={{ margin: "6px 0" }}>
        Share of a response’s variation over the ranges that goes with the factor, its interactions included; weighted
        by how much each response counts, as shares of all that the factors move.
      </p>
      <div className="row" style={{ gap: 8, flexWrap: "wrap" }}>
        <span>
          Keep the top{" "}
          <InputNumber
            size="small"
            aria-label="Factors to keep"
            min={1}
            max={rows.length}
            precision={0}
            value={kept.length}
            onChange={(n) => n !== null && setTicked(rows.slice(0, n).map((r) => r.factor))}
            style={{ width: 64 }}
          />{" "}
          as sorted
        </span>
        <Button disabled={kept.length < 2 || gone.length === 0} type="primary" onClick={carry}>
          {gone.length === 0 ? "Carry the top few on" : `Retire the other ${gone.length}, carry the ${kept.length} on`}
        </Button>
        <span className="small quiet">
          {gone.length > 0
            ? "Each is held at the value beside it, at the probe unless changed; a fuller plan of the rest is weighed next."
            : "Every factor is ticked; untick those to let go."}
        </span>
      </div>
    </section>
  );
}
