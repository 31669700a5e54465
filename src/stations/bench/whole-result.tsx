"use client";
import { Button, Input } from "antd";
import { useState } from "react";
import { countedFaultText } from "@/core/findings";
import { kindOf, type Response, type Result, type Trial } from "@/core/study";
import css from "./bench.module.css";
import { useInputMode } from "./keypad";

/** A result that is one whole, drawn as its kind says: typed, or gone on with step by step. */
export function WholeResult({
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
  const kind = kindOf(response);
  const control = kind.control(response);
  const result = trial.results[response.id];
  const stands = kind.text(result, response, String);
  const put = (value: Result): void => {
    enter(response.id, value);
    setDraft(undefined);
    setSentence(undefined);
  };
  const take = (): void => {
    if (draft === undefined) return;
    if (goTo(draft)) {
      setDraft(undefined);
      return;
    }
    const read = kind.read(draft, response);
    if (read.ok) put(read.value);
    else setSentence(`${response.name}: ${countedFaultText(read.fault)}.`);
  };
  const said = control.said(result);
  return (
    <div className={css.card}>
      <h2>
        {response.name} <span className="quiet">{kind.on(response)}</span>
      </h2>
      <div className={css.readings}>
        <span className={css.reading}>
          <Input
            className={css.value}
            inputMode={inputMode === "none" ? "text" : inputMode}
            autoComplete="off"
            aria-label={response.name}
            placeholder={control.example}
            value={draft ?? stands}
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
          {stands !== "" && (
            <Button className={css.undo} aria-label={`Take ${response.name} back`} onClick={() => put(null)}>
              ↶
            </Button>
          )}
        </span>
        {control.steps.map(({ label, text, next }) => (
          <Button
            key={label}
            className={css.tally}
            aria-label={label}
            onClick={() => {
              const after = next(result);
              if (after === undefined) setSentence(`${response.name}: ${control.refusal}.`);
              else put(after);
            }}
          >
            {text}
          </Button>
        ))}
      </div>
      {said && <p className="quiet">{said}</p>}
      {sentence && (
        <p className="danger" role="alert">
          {sentence}
        </p>
      )}
    </div>
  );
}
