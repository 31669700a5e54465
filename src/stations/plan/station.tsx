"use client";
import { useRouter } from "next/navigation";
import { lazy, Suspense, useMemo, useState } from "react";
import { type Evidence, planReadings } from "@/core/findings";
import { countedPowerOf } from "@/core/plans";
import { kindOf, pricesOf } from "@/core/study";
import { useDesk } from "@/ui/desk/store";
import { Fold } from "@/ui/parts/fold";
import { percent } from "@/ui/parts/format";
import { StationFrame } from "@/ui/shell/frame";
import { Asks, SetupAsks } from "./asks";
import { CostChart } from "./cost-chart";
import { Judging } from "./judging";
import { askedOtherwise, NextWave } from "./next-wave";
import { NothingYet } from "./nothing-yet";
import { PickedPlans } from "./picked-plans";
import { SearchLine } from "./search-line";
import { usePlanning } from "./use-planning";

// Fetched when it is first asked for: it brings all that reads sheets.
const ImportTrials = lazy(() => import("./import-trials").then((m) => ({ default: m.ImportTrials })));

/** Rows that evidence stands in; other evidence stands in the term map. */
const ROW_OF: Partial<Record<Evidence, string>> = { chains: "chains", df: "df", power: "power", setups: "setups" };
const ON_QUESTION: readonly Evidence[] = ["responses", "factors", "region"];

/** Weigh plans against what they can tell, pick up to three, adopt one as a wave. */
export function PlanStation() {
  const planning = usePlanning();
  const { study, deferred, summaries, follows, picked, first, response, noise, unit, search } = planning;
  const router = useRouter();
  const id = useDesk((d) => d.id);
  const [open, setOpen] = useState<Record<string, boolean>>({ map: true, setups: true, df: true, risks: true });
  const [importing, setImporting] = useState(false);
  const searching = search.running || !search.current;
  const readings = useMemo(
    () => planReadings(study, deferred, { summaries, picked, judgedBy: response?.id, first, searching }),
    [study, deferred, summaries, picked, response?.id, first, searching],
  );
  const show = (evidence: Evidence): void => {
    if (ON_QUESTION.includes(evidence)) {
      router.push(`/studies/${id}/question`);
      return;
    }
    const row = ROW_OF[evidence] ?? "map";
    setOpen({ ...open, [row]: true });
    document.getElementById(`row-${row}`)?.scrollIntoView({ block: "center", behavior: "smooth" });
  };
  // What more pieces of a trial would do for the plan picked last stands beside what more trials do.
  const last = picked[picked.length - 1];
  const prices = pricesOf(study);
  const pieceCost = prices.piece || (response?.pieceCost ?? 0) * prices.trial;
  const pieces = useMemo(() => {
    const { counted, power, alpha } = deferred;
    const exact = last && countedPowerOf(study, last, deferred);
    if (!counted || !exact) return [];
    return [2, 4].flatMap((times) => {
      const sees = exact.detectable(power, alpha, { replicates: 1, of: times * counted.of });
      const extra = last.n * (times - 1) * counted.of * pieceCost;
      return sees === null
        ? []
        : [{ plan: last.id, times, what: kindOf({ measured: counted.kind }).lot.exposure, extra, sees }];
    });
  }, [study, last, deferred, pieceCost]);
  const bring = (): void => setImporting(true);
  const refusals = [
    ...search.step.refusals.filter((r) => !askedOtherwise(r)),
    // A plan that sees nothing has no place in the chart; it does not go without a word.
    ...summaries
      .filter((s) => s.ratio === null && !s.follow)
      .map(({ label }) => ({ family: label, text: `${label}: it tells nothing of what is asked.` })),
  ];
  const run = study.trials.filter((t) => t.state === "done").length;
  return (
    <StationFrame name="Plan" readings={readings} onShow={show} heading={<Asks planning={planning} />}>
      <SetupAsks planning={planning} />
      {(follows.length > 0 || search.step.refusals.some(askedOtherwise)) && <NextWave planning={planning} />}
      {summaries.length > 0 ? (
        <>
          <Judging planning={planning} bring={bring} />
          <SearchLine planning={planning} />
          <CostChart
            summaries={summaries}
            picked={picked.map((s) => s.id)}
            pick={planning.pick}
            unit={unit}
            noise={noise}
            wanted={response?.smallest}
            name={`smallest change seen, ${unit || "its unit"}`}
            pieces={pieces}
            prices={prices}
            setups={last?.strata !== undefined}
            height={226}
          />
          <PickedPlans planning={planning} open={open} setOpen={setOpen} />
        </>
      ) : (
        <NothingYet planning={planning} bring={bring} />
      )}
      {refusals.length > 0 && summaries.length > 0 && (
        <Fold
          className="small quiet"
          title={`Not on offer here: ${refusals.length} ${refusals.length === 1 ? "kind of plan" : "kinds of plans"}`}
        >
          {refusals.map((r) => (
            <p key={`${r.family}${r.text}`}>{r.text}</p>
          ))}
        </Fold>
      )}
      {study.trials.length > 0 && (
        <p className="small quiet" style={{ marginTop: 8 }}>
          The ledger holds {study.trials.length} trials, {percent(run / study.trials.length)} of them run. A further
          wave is added to it; nothing is replaced.
        </p>
      )}
      {importing && (
        <Suspense fallback={null}>
          <ImportTrials
            close={(took) => {
              setImporting(false);
              if (took) router.push(`/studies/${id}/trials`);
            }}
          />
        </Suspense>
      )}
    </StationFrame>
  );
}
