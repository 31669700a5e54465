"use client";
import { Button } from "antd";
import { Fragment } from "react";
import { whoText } from "@/core/findings";
import type { Mark } from "@/core/study";
import type { HistoryEvent } from "@/server/history";
import { Flag } from "@/ui/parts/flag";
import { LinkButton } from "@/ui/parts/link-button";
import css from "./history.module.css";

const day = new Intl.DateTimeFormat("en-GB", { weekday: "long", day: "numeric", month: "long", year: "numeric" });
const clock = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit" });
export const timeOf = (at: string): string => clock.format(new Date(at));
export const dayOf = (at: string): string => day.format(new Date(at));

/** Cells of one change that are told without being asked for. */
const FEW = 3;

function Cells({ event, all, toggle }: { event: HistoryEvent; all: boolean; toggle(): void }) {
  const shown = all ? event.changes : event.changes.slice(0, FEW);
  const beyond = event.count - shown.length;
  return (
    <ul className={css.cells}>
      {shown.map((c) => (
        <li key={c.path.join("/")}>{c.text}</li>
      ))}
      {(beyond > 0 || all) && event.changes.length > FEW && (
        <li>
          <LinkButton onClick={toggle}>
            {all ? "fewer" : `and ${beyond} more ${beyond === 1 ? "cell" : "cells"}`}
          </LinkButton>
          {all && beyond > 0 && <span className="quiet"> {beyond} further ones stand in the CSV</span>}
        </li>
      )}
    </ul>
  );
}

/** A named moment between the changes. */
function MarkLine({ mark, show, remove }: { mark: Mark; show(): void; remove(): void }) {
  return (
    <div className={css.mark} id={`mark-${mark.id}`}>
      <Flag />
      <LinkButton onClick={show} title="Show the study as it stood then">
        {mark.name}
      </LinkButton>
      <span className="quiet grow">
        {dayOf(mark.at)}, {whoText(mark.who)}
      </span>
      <Button type="text" size="small" aria-label={`Take the mark ${mark.name} away`} onClick={remove}>
        ×
      </Button>
    </div>
  );
}

/** Changes, the last first, by day, with marks between them. */
export function EventList({
  events,
  marks,
  chosen,
  open,
  setOpen,
  choose,
  unmark,
}: {
  events: readonly HistoryEvent[];
  /** Those that stand between the changes shown. */
  marks: readonly Mark[];
  chosen: number | undefined;
  /** Changes whose cells are all told. */
  open: ReadonlySet<number>;
  setOpen(event: number): void;
  choose(revision: number, event: number | undefined): void;
  unmark(mark: Mark): void;
}) {
  return (
    <div className={css.events}>
      {events.map((e, i) => (
        <Fragment key={e.id}>
          {(i === 0 || dayOf(events[i - 1].at) !== dayOf(e.at)) && <h2 className={css.day}>{dayOf(e.at)}</h2>}
          {marks
            .filter((m) => m.revision >= e.revision && (i === 0 || m.revision < events[i - 1].revision))
            .reverse()
            .map((m) => (
              <MarkLine key={m.id} mark={m} show={() => choose(m.revision, undefined)} remove={() => unmark(m)} />
            ))}
          <div className={css.event} data-chosen={chosen === e.id ? "yes" : "no"} data-revision={e.revision}>
            <div className="row" style={{ alignItems: "baseline", gap: 8 }}>
              <time className="num quiet" dateTime={e.at}>
                {timeOf(e.at)}
              </time>
              <LinkButton
                className="grow"
                aria-pressed={chosen === e.id}
                title="Show the study as it stood after this"
                onClick={() => choose(e.revision, e.id)}
              >
                {e.what}
              </LinkButton>
              <span className="small quiet">{whoText(e.who)}</span>
            </div>
            <Cells event={e} all={open.has(e.id)} toggle={() => setOpen(e.id)} />
          </div>
        </Fragment>
      ))}
    </div>
  );
}
