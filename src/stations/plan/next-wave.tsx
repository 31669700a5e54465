"use client";
import { Button } from "antd";
import { useRef, useState } from "react";
import { costText, counted, messageText } from "@/core/findings";
import { readNumber } from "@/core/formats";
import { type Estimability, families, type PlanRefusal, type PlanSummary, requestedTerms } from "@/core/plans";
import { alphabetOf, type Beyond, edit, hardFactors, isStanding, pricesOf, termLetters } from "@/core/study";
import { useDesk } from "@/ui/desk/store";
import { DraftField } from "@/ui/parts/draft";
import { figure } from "@/ui/parts/format";
import { LinkButton } from "@/ui/parts/link-button";
import { Pick } from "@/ui/parts/pick";
import { ScrollBox } from "@/ui/parts/scroll-box";
import { useTroubles } from "@/ui/parts/use-troubles";
import { Count } from "./count";
import css from "./plan.module.css";
import type { Planning } from "./use-planning";

/** "before → after", one figure where nothing changes. */
function Change({ before, after, better }: { before: string; after: string; better: boolean }) {
  return (
    <span className="num">
      {before === after ? (
        <span className="quiet">{after}</span>
      ) : (
        <>
          <span className="quiet">{before} →</span> <span className={better ? "success" : "warning"}>{after}</span>
        </>
      )}
    </span>
  );
}

/** In what plan factors are carried on, and in how many trials. */
function CarryAs({ planning: { study, request, ask } }: { planning: Planning }) {
  const carry = request.carry ?? {};
  const serving = families.filter((f) => !f.searches);
  return (
    <div className="row small" style={{ gap: 6, flexWrap: "wrap", margin: "3px 0" }}>
      <Pick
        label="Carried on in"
        value={carry.family ?? ""}
        options={[["", "the plan that suits"], ...serving.map((f): [string, string] => [f.id, f.label])]}
        set={(family) => {
          const { family: _family, trials: _trials, ...rest } = carry;
          ask({ carry: family === "" ? rest : { ...rest, family } });
        }}
      />
      {carry.family !== undefined && (
        <Count
          label="of trials"
          value={carry.trials ?? 0}
          least={0}
          most={Math.max(8, 4 * study.factors.length ** 2)}
          set={(trials) => {
            const { trials: _trials, ...rest } = carry;
            ask({ carry: trials === 0 ? rest : { ...rest, trials } });
          }}
        />
      )}
    </div>
  );
}

/** How many more trials are placed where they tell most. */
function MoreOf({ planning: { request, ask } }: { planning: Planning }) {
  return (
    <div className="row small" style={{ gap: 6, margin: "3px 0" }}>
      <Count label="this many" value={request.more} least={1} most={200} open="enough" set={(more) => ask({ more })} />
    </div>
  );
}

/** Asks how far factors can be set, where a wave would take them past their ranges. */
function LimitsOf({ planning: { study }, open }: { planning: Planning; open: readonly Beyond[] }) {
  const commit = useDesk((d) => d.commit);
  const { first, tell } = useTroubles();
  return (
    <div className="row small" style={{ gap: 6, flexWrap: "wrap", margin: "3px 0" }}>
      {open.map(({ factor, limit }) => {
        const f = study.factors.find((x) => x.id === factor);
        if (!f) return null;
        const asks = `${f.name} can be set to at ${limit === "hardHigh" ? "most" : "least"}`;
        return (
          <span key={factor} className="row" style={{ gap: 4 }}>
            {asks}
            <DraftField
              name={`climb:${factor}`}
              label={asks}
              className="alone"
              mono
              align="right"
              width={64}
              value=""
              onTrouble={tell}
              take={(text) => {
                const value = readNumber(text);
                return typeof value === "number"
                  ? commit([edit(study, ["factors", factor, limit], value)], `hard limit of ${f.name}`)
                  : `${f.name}: “${text}” is not a number; type how far it can be set${f.unit ? `, in ${f.unit}` : ""}.`;
              }}
            />
            {f.unit}
          </span>
        );
      })}
      {first && (
        <span className="danger" role="alert">
          {first}
        </span>
      )}
    </div>
  );
}

/** Waves that are asked otherwise where they stand, so that they can be planned. */
export const askedOtherwise = ({ follow }: PlanRefusal): boolean =>
  follow !== undefined && (follow.narrows || follow.name === "more" || follow.open !== undefined);

/** A wave that cannot be planned as it is asked for, with what to ask for instead. */
const AskedOtherwise = ({
  planning,
  refusal: { family, text, follow },
}: {
  planning: Planning;
  refusal: PlanRefusal;
}) => (
  <tr data-follow={follow?.kind}>
    <td colSpan={8}>
      {family}
      {follow?.narrows && <CarryAs planning={planning} />}
      {follow?.name === "more" && <MoreOf planning={planning} />}
      <div className="small warning" role="status">
        {text}
      </div>
      {follow?.open && <LimitsOf planning={planning} open={follow.open} />}
    </td>
  </tr>
);

/**
 * What each wave that may follow would tell beyond the trials already there, in one table of before and after: those
 * the study needs now first, each with its reason.
 */
export function NextWave({ planning }: { planning: Planning }) {
  const { study, follows, deferred: request, noise, unit, pick, adopt } = planning;
  const picked = planning.picked.map((s) => s.id);
  const [all, setAll] = useState(false);
  const alphabet = alphabetOf(study);
  const prices = pricesOf(study);
  const needed = follows.filter((s) => s.follow?.why);
  // As it is asked to be carried on it cannot be planned: said where it was asked, so that it can be asked otherwise.
  const refused = planning.search.step.refusals.filter(askedOtherwise);
  // What asked something here stays in sight once it is answered.
  const asking = useRef(new Set<string>());
  for (const { follow } of refused) if (follow) asking.current.add(follow.kind);
  // How many more trials can be asked for whatever the study needs.
  const others = follows.filter((s) => !needed.includes(s));
  const stays = ({ follow }: PlanSummary): boolean =>
    follow !== undefined && (follow.name === "more" || asking.current.has(follow.kind));
  const shown = [...needed, ...(all || needed.length === 0 ? others : others.filter(stays))];
  const asked = requestedTerms(study, request).length;
  const ofAsked = (n: number, f: { asked: number }): string => (f.asked === asked ? String(n) : `${n} of ${f.asked}`);
  const ratio = (t: Estimability): string => (t.ratio === null ? "–" : figure(t.ratio * noise));
  return (
    <section className={css.next} aria-label="Next wave" data-testid="next-wave">
      <div className="row">
        <h2 className="grow">What would the next wave tell?</h2>
        {needed.length > 0 && (all || shown.length < follows.length) && (
          <LinkButton className="small" onClick={() => setAll(!all)}>
            {all ? "only what the study needs now" : `${follows.length - shown.length} more kinds`}
          </LinkButton>
        )}
      </div>
      <ScrollBox name="Waves that may follow" className={css.waves}>
        <table>
          <thead>
            <tr>
              <th>Wave</th>
              <th>trials</th>
              <th title="pairs of asked effects that travel together now and would not any more">pairs separated</th>
              <th title={`of the ${asked} effects asked about`}>effects told apart, of {asked}</th>
              <th title="asked effects clear of every other">clear of all others</th>
              <th title={`at power ${request.power}, of the hardest effect told`}>
                smallest change seen, {unit || "its unit"}
              </th>
              <th title="root mean over the region">prediction error, σ</th>
              <th aria-label="act" />
            </tr>
          </thead>
          <tbody>
            {shown.map((s, i) => {
              const f = s.follow;
              if (!f) return null;
              const pairs = f.parted.slice(0, 3).map((pair) => pair.map((t) => termLetters(alphabet, t)).join("|"));
              return (
                <tr key={s.id} data-follow={f.kind} data-picked={picked.includes(s.id) ? "yes" : "no"}>
                  <td>
                    <LinkButton
                      aria-pressed={picked.includes(s.id)}
                      title="Open beside other plans"
                      onClick={() => pick(s.id)}
                    >
                      {s.label}
                    </LinkButton>
                    {f.why && f.why !== shown[i - 1]?.follow?.why && (
                      <div className="small">{messageText("whys", f.why)}</div>
                    )}
                    {f.narrows && <CarryAs planning={planning} />}
                    {f.name === "more" && <MoreOf planning={planning} />}
                    {f.cautions.map((c) => (
                      <div key={c} className="small warning">
                        {c}
                      </div>
                    ))}
                  </td>
                  <td className="num">
                    +{s.n}
                    {prices.unit !== undefined && (
                      <div className="small quiet" style={{ whiteSpace: "nowrap" }}>
                        {costText(prices, s.cost)}
                      </div>
                    )}
                    {s.strata && (
                      <div className="small quiet" style={{ whiteSpace: "nowrap" }}>
                        {s.strata.reset ? "each set up anew" : `in ${counted(s.strata.setups, "set-up")}`}
                      </div>
                    )}
                  </td>
                  <td
                    className="num"
                    title={
                      f.parted.map((pair) => pair.map((t) => termLetters(alphabet, t)).join(" from ")).join(", ") ||
                      "nothing asked travelled together"
                    }
                  >
                    {f.parted.length === 0
                      ? "–"
                      : `${pairs.join(" ")}${f.parted.length > 3 ? ` +${f.parted.length - 3}` : ""}`}
                  </td>
                  <td>
                    <Change
                      before={ofAsked(f.before.estimable, f)}
                      after={ofAsked(f.after.estimable, f)}
                      better={f.after.estimable > f.before.estimable}
                    />
                  </td>
                  <td>
                    <Change
                      before={String(f.before.clear)}
                      after={String(f.after.clear)}
                      better={f.after.clear > f.before.clear}
                    />
                  </td>
                  <td>
                    <Change
                      before={ratio(f.before)}
                      after={ratio(f.after)}
                      better={(f.after.ratio ?? 9e9) < (f.before.ratio ?? 9e9)}
                    />
                  </td>
                  <td>
                    <Change
                      before={f.before.meanError === null ? "–" : figure(f.before.meanError)}
                      after={f.after.meanError === null ? "–" : figure(f.after.meanError)}
                      better={(f.after.meanError ?? 9e9) < (f.before.meanError ?? 9e9)}
                    />
                  </td>
                  <td>
                    <Button size="small" type={s === needed[0] ? "primary" : "default"} onClick={() => adopt(s)}>
                      Adopt
                    </Button>
                  </td>
                </tr>
              );
            })}
            {refused.map((r) => (
              <AskedOtherwise key={r.family} planning={planning} refusal={r} />
            ))}
          </tbody>
        </table>
      </ScrollBox>
      <p className="small quiet">
        Judged with the {study.trials.filter(isStanding).length} trials already there; the new ones are a wave of their
        own. More effects told can mean a larger smallest change: it is that of the hardest one told.
        {hardFactors(study).length > 0 &&
          " Set-ups are as asked for above; left open, each setting of what is hard to change is set once."}
      </p>
    </section>
  );
}
