"use client";
import { Button } from "antd";
import { usePathname, useRouter } from "next/navigation";
import { useEffect, useState } from "react";
import type { Station } from "@/core/findings";
import type { Study } from "@/core/study";
import { LinkButton } from "@/ui/parts/link-button";
import { useDesk } from "../desk/store";
import css from "./tour.module.css";
import { endTour, stopAt, tourOf } from "./touring";

/** One stop of the guided tour: where it is, what to see and do there, and how one can tell that it is done. */
interface Stop {
  station: Station;
  title: string;
  text: string;
  done(study: Study): boolean;
}

const measured = (study: Study): number => study.trials.filter((t) => t.state === "done").length;
const waiting = (study: Study): boolean => study.trials.some((t) => t.state === "planned");
const goals = (study: Study): Study["responses"] => study.responses.filter((r) => r.goal.aim !== "watch");

const STOPS: Stop[] = [
  {
    station: "question",
    title: "The question",
    text: "A scouring line leaves grease in the wool; heat cleans but tangles. Four responses with their goals, six factors with what the machine can be set to. Everything after this is judged by what stands here.",
    done: (s) => s.responses.length > 0 && s.factors.length > 1,
  },
  {
    station: "plan",
    title: "Weigh plans",
    text: "Each point is a plan: across its price in trials, up the smallest effect it would see. Two stand ready below: the last is the cheapest that sees the smallest change worth finding. For this tour pick “Fraction 16” in the chart instead, cheap though some pairs travel together, and adopt it: a later wave parts them.",
    done: (s) => s.trials.length > 0,
  },
  {
    station: "trials",
    title: "Run the trials",
    text: "This is where results are typed or pasted, in run order. A virtual line stands in for the real one: press “Run the rest on the rig”.",
    done: (s) => measured(s) > 0 && !waiting(s),
  },
  {
    station: "model",
    title: "See what matters",
    text: "Each rung is an effect with its interval. Press Reduce, then “Reduce all responses”: the terms that earn their place stay. Then read the readings: two factors act together, a chain cannot be told apart, the centre lies off the straight lines.",
    done: (s) => goals(s).every((r) => s.models.some((m) => m.response === r.id)),
  },
  {
    station: "plan",
    title: "The next wave",
    text: "The table says what each wave would tell beyond the trials you have: which chains it parts, what becomes clear, at what price. Adopt the missing fraction, run it on the rig, and the axial points after it if the centre is still off.",
    done: (s) => s.waves.length > 1,
  },
  {
    station: "trials",
    title: "Run it too",
    text: "The new wave goes on in the same ledger: nothing already run is touched. Let the rig run the rest.",
    done: (s) => s.waves.length > 1 && !waiting(s),
  },
  {
    station: "model",
    title: "Model again",
    text: "With the new wave the chain is parted and the bend has a factor. Reduce all again; the shift between waves is in the model as a block.",
    done: (s) => s.waves.length > 1 && !waiting(s),
  },
  {
    station: "setpoint",
    title: "Find the setpoint",
    text: "The whole region is searched for the best overall desirability, then rounded to steps the machine has. Look at the trade-off picture, then choose a candidate.",
    done: (s) => s.setpoint !== undefined,
  },
  {
    station: "setpoint",
    title: "Confirm it",
    text: "Below the candidates, plan a few confirmation trials, run them on the rig under Trials, and come back: the verdict stands beside the prediction, with what to suspect if it fails.",
    done: (s) => s.trials.some((t) => t.kind === "confirm" && t.state === "done"),
  },
  {
    station: "report",
    title: "Hand it on",
    text: "What was asked, planned, run, found, chosen and confirmed, as a page to print. The study file holds it all for somebody else.",
    done: () => false,
  },
];

/** A card that leads through the whole story, at its reader's pace; it can be left at any time. */
export function Tour() {
  const id = useDesk((d) => d.id);
  const study = useDesk((d) => d.study);
  const router = useRouter();
  const path = usePathname();
  const [at, setAt] = useState<number | undefined>(undefined);
  useEffect(() => {
    const kept = tourOf(id);
    if (kept !== undefined) setAt(Math.max(0, Math.min(STOPS.length - 1, kept)));
  }, [id]);
  if (at === undefined) return null;
  const stop = STOPS[at];
  const move = (to: number): void => {
    stopAt(id, to);
    setAt(to);
    if (!path.endsWith(`/${STOPS[to].station}`)) router.push(`/studies/${id}/${STOPS[to].station}`);
  };
  const leave = (): void => {
    endTour(id);
    setAt(undefined);
  };
  const elsewhere = !path.endsWith(`/${stop.station}`);
  const done = stop.done(study);
  return (
    <aside className={css.tour} aria-label="Guided tour" data-testid="tour">
      <div className="row small quiet">
        <span className="grow">
          Tour · {at + 1} of {STOPS.length}
        </span>
        <LinkButton className="small" onClick={leave}>
          leave the tour
        </LinkButton>
      </div>
      <h2>
        {stop.title} {done && <span className="success">✓</span>}
      </h2>
      <p>{stop.text}</p>
      <div className="row">
        {at > 0 && <Button onClick={() => move(at - 1)}>Back</Button>}
        <span className="grow" />
        {elsewhere && <Button onClick={() => move(at)}>Take me there</Button>}
        {at < STOPS.length - 1 ? (
          <Button type={done ? "primary" : "default"} onClick={() => move(at + 1)}>
            {done ? "Next" : "Skip this"}
          </Button>
        ) : (
          <Button type="primary" onClick={leave}>
            Done
          </Button>
        )}
      </div>
    </aside>
  );
}
