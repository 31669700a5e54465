"use client";
import { Button, Checkbox, Input } from "antd";
import Link from "next/link";
import { useEffect, useMemo, useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { counted, messageText, standingText } from "@/core/findings";
import { inRunOrder, type LikelyRanges, nextToRun } from "@/core/operator";
import { type Factor, isStanding, locationOf, type Setting, type Trial, valueAt } from "@/core/study";
import { Who } from "@/ui/parts/actor";
import { Modal } from "@/ui/parts/overlays";
import { useSessionEnded } from "@/ui/parts/session";
import css from "./bench.module.css";
import type { Bench, Clash, Refused } from "./queue";
import { ResultsPanel } from "./results-panel";
import { SettingsPanel } from "./settings-panel";

/** Boxes of the strip that fit; beyond, trials are counted. */
const MOST_BOXES = 40;

/** Where a trial stands in the address: by its run order, which is on its card too. */
const hashOf = (trial: Trial): string => `#trial-${trial.order}`;
const orderIn = (text: string): number | undefined => {
  const found = /trial-(\d+)$/.exec(text.trim());
  return found ? Number(found[1]) : undefined;
};

const STATES: Record<Trial["state"], string> = {
  planned: "waiting",
  done: "run",
  skipped: "skipped",
  failed: "failed",
};

/** Where an entry belongs, in words. */
const placeOf = (bench: Bench, { trial, entry }: Clash | Refused): string =>
  messageText(
    "locations",
    locationOf({ study: bench.study }, ["trials", trial, entry.cell, ...("of" in entry ? [entry.of] : [])]),
  );

/** Entries whose cells hold something else by now, a trial at a time: both side by side. */
function Clashes({ bench }: { bench: Bench }) {
  const [first] = bench.clashes;
  if (!first) return null;
  const clashes = bench.clashes.filter((c) => c.trial === first.trial);
  const words = (value: unknown): string => standingText(valueAt({ study: bench.study }, value));
  if (clashes.length === 1)
    return (
      <Modal open footer={null} closable={false} title="Entered here and elsewhere">
        <p className="quiet">Nothing was overwritten. What shall stand at {placeOf(bench, first)}?</p>
        <div className={css.acts}>
          <Button size="large" onClick={() => bench.settle(clashes, "mine")}>
            mine: {words(first.entry.value)}
          </Button>
          <Button size="large" onClick={() => bench.settle(clashes, "theirs")}>
            theirs: {words(first.now)}
          </Button>
        </div>
      </Modal>
    );
  return (
    <Modal open footer={null} closable={false} title="Entered here and elsewhere">
      <p className="quiet">Nothing was overwritten. {clashes.length} cells of one trial hold something else by now.</p>
      <table className={css.clashes}>
        <thead>
          <tr>
            <th />
            <th>mine</th>
            <th>theirs</th>
          </tr>
        </thead>
        <tbody>
          {clashes.map((c) => (
            <tr key={c.key}>
              <th scope="row">{placeOf(bench, c)}</th>
              <td>{words(c.entry.value)}</td>
              <td>{words(c.now)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className={css.acts}>
        <Button size="large" onClick={() => bench.settle(clashes, "mine")}>
          All of mine
        </Button>
        <Button size="large" onClick={() => bench.settle(clashes, "theirs")}>
          All of theirs
        </Button>
      </div>
    </Modal>
  );
}

/** Asks why a trial is not run as planned. */
function Reason({ state, done, close }: { state: "failed" | "skipped"; done(why: string): void; close(): void }) {
  const [why, setWhy] = useState("");
  return (
    <Modal
      open
      title={state === "failed" ? "Why did it fail?" : "Why is it skipped?"}
      okText={state === "failed" ? "It failed" : "Skip it"}
      okButtonProps={{ size: "large", disabled: why.trim() === "" }}
      cancelButtonProps={{ size: "large" }}
      onOk={() => done(why.trim())}
      onCancel={close}
    >
      <Input.TextArea
        aria-label="Reason"
        autoFocus
        rows={3}
        maxLength={400}
        value={why}
        onChange={(e) => setWhy(e.target.value)}
      />
    </Modal>
  );
}

/** What waits on this device, what was refused. */
function Waiting({ bench }: { bench: Bench }) {
  const n = bench.waiting.length;
  // A server that asks who sits here is not away.
  const ended = useSessionEnded();
  const away = bench.away && !ended;
  return (
    <div className={css.waiting}>
      {bench.refused.map((r) => (
        <p key={r.key} className="danger" role="alert">
          {placeOf(bench, r)} was not taken: {r.sentence}{" "}
          <Button size="small" onClick={() => bench.letGo(r)}>
            Let it go
          </Button>
        </p>
      ))}
      <span role="status" data-waiting={n} data-away={away ? "yes" : "no"}>
        {n === 0
          ? away
            ? "The network is away. What you enter is kept on this device."
            : ended
              ? "Sign in to go on."
              : "All entries are sent."
          : `${counted(n, "entry", "entries")} waiting to be sent${away ? ": the network is away. They are kept on this device." : ended ? ": sign in first. They are kept on this device." : "."}`}
      </span>
    </div>
  );
}

/** One trial at a time, beside the machine: what to set, what came out. */
// One page whose parts share which trial is at hand.
export function BenchStation({ bench, likely }: { bench: Bench; likely: LikelyRanges }) {
  const { study } = bench;
  const trials = useMemo(() => inRunOrder(study), [study]);
  const [leastChange, setLeastChange] = useState(false);
  const [asking, setAsking] = useState<"failed" | "skipped" | undefined>(undefined);
  const [picking, setPicking] = useState(false);
  const [note, setNote] = useState<string | undefined>(undefined);
  const [at, setAt] = useState<string | undefined>(() => {
    const order = orderIn(window.location.hash);
    return (trials.find((t) => t.order === order) ?? nextToRun(study, undefined, false) ?? trials[trials.length - 1])
      ?.id;
  });
  const [ready, setReady] = useState(false);
  useEffect(() => setReady(true), []);
  const index = trials.findIndex((t) => t.id === at);
  const trial = trials[index];
  const go = (to: Trial | undefined): void => {
    if (!to) return;
    setAt(to.id);
    setNote(undefined);
    window.history.replaceState(null, "", hashOf(to));
  };
  useEffect(() => {
    const follow = (): void => {
      const order = orderIn(window.location.hash);
      const found = trials.find((t) => t.order === order);
      if (found) setAt(found.id);
    };
    window.addEventListener("hashchange", follow);
    return () => window.removeEventListener("hashchange", follow);
  }, [trials]);
  const next = ((): Trial | undefined => {
    if (!trial) return undefined;
    if (leastChange) return nextToRun({ ...study, trials: trials.filter((t) => t.id !== trial.id) }, trial, true);
    return trials.slice(index + 1).find((t) => t.state === "planned") ?? trials[index + 1];
  })();
  const keys = { preventDefault: true, enableOnFormTags: true } as const;
  useHotkeys("pagedown", () => go(next), keys);
  useHotkeys("pageup", () => go(trials[index - 1]), keys);
  if (!trial)
    return (
      <div className={css.page} data-ready={ready ? "yes" : "no"}>
        <main className={css.empty} data-station="bench">
          <h1>No trials yet</h1>
          <p>Adopt a plan on Plan; its trials are run here, one at a time.</p>
          <Link href={`/studies/${bench.id}/plan`} className="link">
            Go to Plan
          </Link>
        </main>
      </div>
    );
  // The machine stands where the last trial before this one left it.
  const before = [...trials.slice(0, index)].reverse().find((t) => t.state === "done" || t.setUp);
  const wave = study.waves.find((w) => w.id === trial.wave)?.name ?? "";
  const put = (factor: Factor, value: Setting | null): string | undefined => {
    bench.note(trial.id, { cell: "asRun", of: factor.id, value });
    return undefined;
  };
  const goTo = (text: string): boolean => {
    const order = orderIn(text);
    const found = order === undefined ? undefined : trials.find((t) => t.order === order);
    go(found);
    return found !== undefined;
  };
  const done = trials.filter((t) => t.state !== "planned").length;
  return (
    <div className={css.page} data-ready={ready ? "yes" : "no"}>
      <header className={css.top}>
        <h1>
          Trial {trial.order} of {trials.length}
        </h1>
        <span className="quiet grow">
          {study.title}
          {wave ? ` · ${wave}` : ""}
          {trial.state === "planned" ? "" : ` · ${STATES[trial.state]}`}
        </span>
        {trials.length <= MOST_BOXES ? (
          <span className={css.strip} aria-hidden="true">
            {trials.map((t) => (
              <i key={t.id} data-state={t.state} data-here={t.id === trial.id ? "yes" : "no"} />
            ))}
          </span>
        ) : (
          <span className="num">
            {done} of {trials.length} run
          </span>
        )}
        <Who size="large" />
        <Button size="large" onClick={() => setPicking(true)}>
          All trials
        </Button>
      </header>
      <main className={css.work} data-station="bench" key={trial.id}>
        <SettingsPanel
          study={study}
          before={before}
          trial={trial}
          setUp={(value) => bench.note(trial.id, { cell: "setUp", value })}
          put={put}
        />
        <div>
          <ResultsPanel
            study={study}
            likely={likely}
            trial={trial}
            enter={(response, value) => bench.note(trial.id, { cell: "results", of: response, value })}
            goTo={goTo}
          />
          <div className={css.card}>
            <h2>Note</h2>
            <Input.TextArea
              className={css.note}
              aria-label="Note"
              placeholder="what was odd"
              autoSize={{ minRows: 1, maxRows: 4 }}
              maxLength={4000}
              value={note ?? trial.note}
              onChange={(e) => setNote(e.target.value)}
              onBlur={() => {
                if (note !== undefined) bench.note(trial.id, { cell: "note", value: note });
                setNote(undefined);
              }}
            />
          </div>
        </div>
      </main>
      <footer className={css.foot}>
        <Button size="large" disabled={index === 0} onClick={() => go(trials[index - 1])}>
          ‹ Trial {trials[index - 1]?.order ?? ""}
        </Button>
        {!isStanding(trial) ? (
          <Button size="large" onClick={() => bench.note(trial.id, { cell: "state", value: "planned" })}>
            Run it after all
          </Button>
        ) : (
          <>
            <Button size="large" onClick={() => setAsking("failed")}>
              Failed…
            </Button>
            <Button size="large" onClick={() => setAsking("skipped")}>
              Skip…
            </Button>
          </>
        )}
        <Waiting bench={bench} />
        <Checkbox
          checked={leastChange}
          onChange={(e) => setLeastChange(e.target.checked)}
          title="Trials are then not run at random: a drift can pass for an effect. The order they are run in is kept by the time they are set up."
        >
          next with least change
        </Checkbox>
        <Button size="large" type="primary" disabled={!next} onClick={() => go(next)}>
          Next trial ›
        </Button>
        {leastChange && (
          <p className={css.caution} role="status">
            Not at random any more: a drift can pass for an effect. The times of setting up keep the order.
          </p>
        )}
      </footer>
      {asking && (
        <Reason
          state={asking}
          close={() => setAsking(undefined)}
          done={(reason) => {
            bench.note(trial.id, { cell: "state", value: asking, reason });
            setAsking(undefined);
            go(next);
          }}
        />
      )}
      {picking && (
        <Modal open footer={null} title="All trials" onCancel={() => setPicking(false)}>
          <div className={css.all}>
            {trials.map((t) => (
              <Button
                key={t.id}
                size="large"
                type={t.state === "planned" ? "default" : "dashed"}
                aria-label={`Trial ${t.order}, ${STATES[t.state]}`}
                onClick={() => {
                  setPicking(false);
                  go(t);
                }}
              >
                {t.order}
              </Button>
            ))}
          </div>
        </Modal>
      )}
      <Clashes bench={bench} />
    </div>
  );
}
