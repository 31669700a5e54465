"use client";
import { Button, Input } from "antd";
import { useState } from "react";
import { countedFaultText } from "@/core/findings";
import { countedText, readResponseCell } from "@/core/formats";
import { countedOn, countedResult, type Response, type Result, type Trial, valueUnit } from "@/core/study";
import { figure } from "@/ui/parts/format";
import css from "./bench.module.css";
import { useInputMode } from "./keypad";

/** A share or a count of one trial: tallied piece by piece, or typed as events of so many. */
export function Tally({
  response,
  trial,
  enter,
  goTo,
}: {
  response: Response;
  trial: Trial;
  enter(response: string, value: Result): void;
  /** What a scanner types is no result: it leads to its trial. */
  goTo(text: string): boolean;
}) {
  const [draft, setDraft] = useState<string | undefined>(undefined);
  const [sentence, setSentence] = useState<string | undefined>(undefined);
  const inputMode = useInputMode();
  const stands = countedResult(trial.results[response.id], response);
  const share = response.measured === "share";
  const put = (value: Result): void => {
    enter(response.id, value);
    setDraft(undefined);
    setSentence(undefined);
  };
  const tally = (events: number, pieces: number): void => {
    const before = stands ?? { events: 0, of: share ? 0 : (response.of ?? 0) };
    if (!share && before.of === 0) {
      setSentence(`${response.name}: on how much is it counted? Type it first, as 0/2.5, or say it on Question.`);
      return;
    }
    put({ events: before.events + events, of: before.of + pieces });
  };
  const take = (): void => {
    if (draft === undefined) return;
    if (goTo(draft)) {
      setDraft(undefined);
      return;
    }
    const read = readResponseCell(response, draft);
    if (read.ok) put(read.value);
    else setSentence(`${response.name}: ${countedFaultText(read.fault)}.`);
  };
  const left = share && stands && response.of !== undefined ? response.of - stands.of : 0;
  return (
    <div className={css.card}>
      <h2>
        {response.name} <span className="quiet">{countedOn(response)}</span>
      </h2>
      <div className={css.readings}>
        <span className={css.reading}>
          <Input
            className={css.value}
            inputMode={inputMode === "none" ? "text" : inputMode}
            autoComplete="off"
            aria-label={response.name}
            placeholder={share ? "3/50" : "4/2.5"}
            value={draft ?? (stands ? countedText(stands) : "")}
            onChange={(e) => setDraft(e.target.value)}
            onBlur={take}
            onKeyDown={(e) => {
              if (e.key === "Enter") {
                e.preventDefault();
                take();
              } else if (e.key === "Escape") {
                setDraft(undefined);
                setSentence(undefined);
              }
            }}
          />
          {stands && (
            <Button className={css.undo} aria-label={`Take ${response.name} back`} onClick={() => put(null)}>
              ↶
            </Button>
          )}
        </span>
        <Button
          className={css.tally}
          aria-label={share ? `${response.name} +1` : `+1 ${response.name}`}
          onClick={() => tally(1, share ? 1 : 0)}
        >
          {share ? `${response.name} +1` : "+1"}
        </Button>
        {share && (
          <Button className={css.tally} aria-label={`Not +1: ${response.name}`} onClick={() => tally(0, 1)}>
            Not +1
          </Button>
        )}
      </div>
      {stands && (
        <p className="quiet">
          {figure(stands.events / stands.of, 3)} {valueUnit(response)}
          {left > 0 ? `, ${left} more to the usual ${response.of}` : ""}
        </p>
      )}
      {sentence && (
        <p className="danger" role="alert">
          {sentence}
        </p>
      )}
    </div>
  );
}
