"use client";
import type { Prediction } from "@/core/model";
import { desirability } from "@/core/setpoint";
import { edit, type Goal, kindOf, type Response } from "@/core/study";
import { WorthRule } from "@/ui/charts/worth-rule";
import { useDesk } from "@/ui/desk/store";
import { limitText } from "@/ui/parts/format";
import { ShareField } from "@/ui/parts/share-field";
import css from "./setpoint.module.css";

/** What is wanted, in a few words: "58 and up, content at 66". */
function wanted(response: Response, goal: Exclude<Goal, { aim: "watch" }>): string {
  const unit = kindOf(response).shownUnit(response);
  const [low, high] = [limitText(response, goal.low), limitText(response, goal.high)];
  const words =
    goal.aim === "raise"
      ? `${low} and up, content at ${high}`
      : goal.aim === "lower"
        ? `down from ${high}, content at ${low}`
        : `within ${low} to ${high}${goal.target === undefined ? "" : `, best at ${limitText(response, goal.target)}`}`;
  return unit ? `${words} ${unit}` : words;
}

/** One wish: what its values are worth, with the prediction at the probe, and its share. */
export function Wish({
  response,
  said,
  tight,
}: {
  response: Response;
  said: Prediction | undefined;
  /** Where many stand below one another. */
  tight: boolean;
}) {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const { goal } = response;
  if (goal.aim === "watch") return null;
  const worth = said && desirability(goal, said.mean);
  return (
    <div className={css.wish} data-tight={tight ? "yes" : "no"}>
      <header>
        <strong title={response.name}>{response.name}</strong>
        {tight && <ShareField response={response} />}
        <span className={css.worth} title="What the prediction at the probe is worth">
          {worth === undefined || worth === null ? "–" : worth.toFixed(2)} of 1
        </span>
      </header>
      {!tight && (
        <header>
          <span className={css.ends} title={wanted(response, goal)}>
            {wanted(response, goal)}
          </span>
          <ShareField response={response} />
        </header>
      )}
      <WorthRule
        goal={goal}
        name={response.name}
        text={(v) => limitText(response, v)}
        width={262}
        value={said?.mean}
        interval={said?.meanInterval ?? null}
        tight={tight}
        onKnee={(key, value) => {
          const next = { ...goal, [key]: value } as typeof goal & { target?: number };
          if (
            next.low < next.high &&
            (next.target === undefined || (next.target >= next.low && next.target <= next.high))
          )
            commit([edit(study, ["responses", response.id, "goal"], next)], `goal of ${response.name}`);
        }}
      />
    </div>
  );
}
