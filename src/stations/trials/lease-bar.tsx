"use client";
import { Button, Progress } from "antd";
import { counted } from "@/core/findings";
import type { Study } from "@/core/study";
import type { Watched } from "@/server/leases";
import { say } from "@/ui/parts/say";
import css from "./trials.module.css";
import type { LeaseState } from "./use-leases";

/** A span of time as people say it. */
export function span(seconds: number): string {
  if (seconds < 90) return `${Math.max(1, Math.round(seconds))} s`;
  if (seconds < 5400) return `${Math.round(seconds / 60)} min`;
  return seconds < 129_600 ? `${Math.round(seconds / 3600)} h` : `${Math.round(seconds / 86_400)} days`;
}

/** How fast trials come back and how long the rest takes; nothing where too few have come. */
export function paceOf({ lately, waiting }: Watched): string | undefined {
  const { trials, seconds } = lately;
  if (trials < 2 || seconds <= 0) return undefined;
  const perMinute = (60 * trials) / seconds;
  const rate =
    perMinute >= 1 ? `${perMinute.toFixed(perMinute < 10 ? 1 : 0)} a minute` : `${(60 * perMinute).toFixed(1)} an hour`;
  return waiting === 0 ? rate : `${rate}, about ${span((waiting * seconds) / trials)} left`;
}

/** Programs and rigs at work: what they run, how fast, and a way to stop them. Nothing where none is. */
export function LeaseBar({ study, lending }: { study: Study; lending: LeaseState }) {
  const { now, change } = lending;
  if (!now || (now.lent.length === 0 && !(now.stopped && now.waiting > 0))) return null;
  const { lent, stopped } = now;
  const pace = paceOf(now);
  const set = async (stop: boolean): Promise<void> => {
    const refused = await change({ stopped: stop });
    if (refused) say(refused);
  };
  const total = study.trials.length;
  return (
    <div className={css.lending} role="status" aria-label="Programs at work">
      <Progress
        percent={(100 * (total - now.waiting)) / Math.max(1, total)}
        showInfo={false}
        size="small"
        style={{ width: 120 }}
        aria-label="Share of trials run"
      />
      <span>
        {total - now.waiting} of {total} run
        {lent.length > 0 && (
          <>
            {" · "}
            {lent
              .slice(0, 3)
              .map((l) => `trial ${l.order} by ${l.holder}`)
              .join(", ")}
            {lent.length > 3 ? ` and ${lent.length - 3} more` : ""}
          </>
        )}
        {pace ? ` · ${pace}` : ""}
        {stopped ? ` · stopped${lent.length > 0 ? `; ${counted(lent.length, "trial")} may still come back` : ""}` : ""}
      </span>
      <span className="grow" />
      <Button size="small" onClick={() => void set(!stopped)}>
        {stopped ? "Let them go on" : "Stop"}
      </Button>
    </div>
  );
}
