"use client";
import { Button, Input } from "antd";
import { useEffect, useRef, useState } from "react";
import { messageText } from "@/core/findings";
import { readNumber, readResultCell } from "@/core/formats";
import { doubtOf, type LikelyRanges } from "@/core/operator";
import { kindOf, measuredResponses, type Response, type Result, type Study, type Trial } from "@/core/study";
import css from "./bench.module.css";
import { Keypad, pressed, useInputMode } from "./keypad";
import { WholeResult } from "./whole-result";

/** One reading as it was typed. “600 610” may be one number or two, and is not guessed at. */
function oneReading(name: string, text: string): { value?: number | null; sentence?: string } {
  const read = readResultCell(text);
  if (read.ok && !Array.isArray(read.value)) return { value: read.value };
  const sentence =
    read.ok || read.why === "either"
      ? `${name}: “${text}” may be several readings; type one here without spaces, and + for one more.`
      : `${name}: “${text}” is not a number; type what was measured.`;
  return { sentence };
}

const listOf = (r: Result | undefined): (number | null)[] => (Array.isArray(r) ? r : typeof r === "number" ? [r] : []);
/** One value stands as itself, several as a list; empty places at the end are none. */
const resultOf = (list: readonly (number | null)[]): Result => {
  const kept = [...list];
  while (kept.length > 0 && kept[kept.length - 1] === null) kept.pop();
  return kept.length === 0 ? null : kept.length === 1 ? kept[0] : kept;
};
const ORDINALS = ["first", "second", "third", "fourth", "fifth", "sixth"];

/** Most readings that have a field each; more came from a file, and are changed at the desk. */
const MOST_FIELDS = 12;

/** How many readings a response is given in this study, as the trials run so far tell. */
const readingsOf = (study: Study, response: string): number =>
  study.trials.reduce((most, t) => {
    const n = listOf(t.results[response]).length;
    return n <= MOST_FIELDS ? Math.max(most, n) : most;
  }, 1);

interface Doubted {
  response: string;
  at: number;
  sentence: string;
  value: number;
  meant: number | null;
}

/** One reading: typed, doubted, taken back. */
function ReadingField({
  name,
  empty,
  text,
  stands,
  doubted,
  hold,
  begin,
  change,
  leave,
  enter,
  drop,
  back,
}: {
  name: string;
  /** What stands where nothing does. */
  empty: string;
  text: string;
  /** Whether something is entered. */
  stands: boolean;
  doubted: boolean;
  hold(field: HTMLInputElement): void;
  begin(): void;
  change(text: string): void;
  leave(): void;
  enter(): void;
  drop(): void;
  back(): void;
}) {
  // Where figures are pressed on the page the device's own keyboard would only cover them.
  const inputMode = useInputMode();
  return (
    <span className={css.reading}>
      <Input
        ref={(el) => {
          if (el?.input) hold(el.input);
        }}
        className={css.value}
        inputMode={inputMode}
        autoComplete="off"
        aria-label={name}
        placeholder={empty}
        value={text}
        status={doubted ? "warning" : ""}
        onFocus={(e) => {
          e.currentTarget.select();
          begin();
        }}
        onChange={(e) => change(e.target.value)}
        onBlur={leave}
        onKeyDown={(e) => {
          if (e.key === "Enter") {
            e.preventDefault();
            enter();
          } else if (e.key === "Escape") drop();
        }}
      />
      {stands && (
        <Button className={css.undo} aria-label={`Take ${name} back`} onClick={back}>
          ↶
        </Button>
      )}
    </span>
  );
}

/** What is asked about an odd result, and the two answers. */
const Question = ({ doubt, keep }: { doubt: Doubted; keep(value: number): void }) => (
  <div className={css.doubt} role="alert">
    <span>{doubt.sentence}</span>
    {doubt.meant !== null && (
      <Button size="large" onClick={() => doubt.meant !== null && keep(doubt.meant)}>
        {doubt.meant} was meant
      </Button>
    )}
    <Button size="large" onClick={() => keep(doubt.value)}>
      {doubt.value} is right
    </Button>
  </div>
);

/** One more reading; where there are more than fields, how many, and where they are changed. */
const More = ({ response, many, add }: { response: Response; many: number | undefined; add(): void }) =>
  many === undefined ? (
    <Button
      className={css.more}
      aria-label={`One more reading of ${response.name}`}
      title="One more reading"
      // The field keeps the cursor, and with it the page its shape, until the press has counted.
      onMouseDown={(e) => e.preventDefault()}
      onClick={add}
    >
      + reading
    </Button>
  ) : (
    <p>
      {many.toLocaleString("en")} {response.several === "units" ? "units" : "values"}, entered at the desk; they are
      changed there.
    </p>
  );

const hasMany = (trial: Trial, r: Response): boolean => listOf(trial.results[r.id]).length > MOST_FIELDS;

interface ReadingCell {
  r: Response;
  at: number;
}
const keyOf = (r: Response, at: number): string => `${r.id} ${at}`;

/** The fields of all readings, and how the cursor goes from one to another. */
function useFields(cells: readonly ReadingCell[]) {
  const fields = useRef(new Map<string, HTMLInputElement>());
  /** A field that was asked for, to be typed into once it stands. */
  const [next, ask] = useState<string | undefined>(undefined);
  useEffect(() => {
    const field = next === undefined ? undefined : fields.current.get(next);
    if (!field) return;
    field.focus();
    ask(undefined);
  }, [next]);
  const onTo = (r: Response, at: number): void => {
    const i = cells.findIndex((c) => c.r.id === r.id && c.at === at);
    const after = cells[i + 1];
    if (after) fields.current.get(keyOf(after.r, after.at))?.focus();
    else fields.current.get(keyOf(r, at))?.blur();
  };
  return { fields, onTo, ask };
}

interface PanelProps {
  study: Study;
  /** Where results are expected before there are any, by response. */
  likely: LikelyRanges;
  trial: Trial;
  enter(response: string, value: Result): void;
  /** What a scanner types is no result: it leads to its trial. */
  goTo(text: string): boolean;
}

/** Results of one trial, reading by reading, each doubted where it is odd and each with its own way back. */
export function ResultsPanel({ study, likely, trial, enter, goTo }: PanelProps) {
  const [draft, setDraft] = useState<{ cell: string; text: string; fresh?: boolean } | undefined>(undefined);
  const [doubt, setDoubt] = useState<Doubted | undefined>(undefined);
  const [sentence, setSentence] = useState<string | undefined>(undefined);
  /** Readings asked for beyond those that other trials have. */
  const [extra, setExtra] = useState<Readonly<Record<string, number>>>({});
  const shown = measuredResponses(study);
  const responses = shown.filter((r) => kindOf(r).control(r).fields === "each");
  const cells = responses.flatMap((r) =>
    Array.from({ length: hasMany(trial, r) ? 0 : readingsOf(study, r.id) + (extra[r.id] ?? 0) }, (_, at) => ({
      r,
      at,
    })),
  );
  const { fields, onTo, ask } = useFields(cells);
  const put = (r: Response, at: number, value: number | null): void => {
    const list = listOf(trial.results[r.id]);
    const next = Array.from({ length: Math.max(list.length, at + 1) }, (_, i) =>
      i === at ? value : (list[i] ?? null),
    );
    enter(r.id, resultOf(next));
    setDraft(undefined);
    setDoubt(undefined);
    setSentence(undefined);
  };
  // Who goes on without an answer keeps what was typed: nothing is lost, and it can be taken back.
  const standing = useRef<() => void>(() => undefined);
  standing.current = () => {
    if (doubt) {
      const r = responses.find((x) => x.id === doubt.response);
      if (r) put(r, doubt.at, doubt.value);
    }
  };
  useEffect(() => () => standing.current(), []);
  /** Takes what was typed; answers whether the cursor may go on. */
  const take = (r: Response, at: number, text: string): boolean => {
    if (goTo(text)) {
      setDraft(undefined);
      return false;
    }
    const { value, sentence: unread } = oneReading(r.name, text);
    if (value === undefined) {
      setSentence(unread);
      return false;
    }
    if (value === (listOf(trial.results[r.id])[at] ?? null)) {
      setDraft(undefined);
      return true;
    }
    const odd = value === null ? undefined : doubtOf(study, r, value, trial.id, likely[r.id]);
    // Entered once more it is kept: the person has seen the question.
    const asked = doubt?.response === r.id && doubt.at === at && doubt.value === value;
    if (odd && value !== null && !asked) {
      setDoubt({ response: r.id, at, sentence: messageText("doubts", odd), value, meant: odd.values.meant });
      return false;
    }
    put(r, at, value);
    return true;
  };
  const typing = draft && cells.find((c) => keyOf(c.r, c.at) === draft.cell);
  return (
    <div className={css.results}>
      {shown.map((r) => {
        if (!responses.includes(r))
          return <WholeResult key={r.id} response={r} trial={trial} enter={enter} goTo={goTo} />;
        const list = listOf(trial.results[r.id]);
        const count = cells.filter((c) => c.r.id === r.id).length;
        return (
          <div key={r.id} className={css.card}>
            <h2>
              {r.name}{" "}
              <span className="quiet">
                {r.unit}
                {count > 1 ? `${r.unit ? ", " : ""}${count} readings` : ""}
              </span>
            </h2>
            <div className={css.readings}>
              {Array.from({ length: count }, (_, at) => {
                const cell = keyOf(r, at);
                const stands = list[at] ?? null;
                const text = draft?.cell === cell ? draft.text : stands === null ? "" : String(stands);
                return (
                  <ReadingField
                    key={cell}
                    name={count > 1 ? `${r.name}, reading ${at + 1}` : r.name}
                    empty={count > 1 ? (ORDINALS[at] ?? String(at + 1)) : "–"}
                    text={text}
                    stands={stands !== null}
                    doubted={doubt?.response === r.id && doubt.at === at}
                    hold={(el) => fields.current.set(cell, el)}
                    begin={() => setDraft({ cell, text: stands === null ? "" : String(stands), fresh: true })}
                    change={(typed) => setDraft({ cell, text: typed })}
                    leave={() => {
                      // A question that stands is answered by its buttons, or by entering the same once more.
                      const asked = doubt?.response === r.id && doubt.at === at && readNumber(text) === doubt.value;
                      if (draft?.cell === cell && !asked) take(r, at, draft.text);
                    }}
                    enter={() => {
                      if (take(r, at, text)) onTo(r, at);
                    }}
                    drop={() => {
                      setDraft({ cell, text: stands === null ? "" : String(stands) });
                      setDoubt(undefined);
                      setSentence(undefined);
                    }}
                    back={() => put(r, at, null)}
                  />
                );
              })}
              <More
                response={r}
                many={hasMany(trial, r) ? list.length : undefined}
                add={() => {
                  const open = draft && cells.find((c) => keyOf(c.r, c.at) === draft.cell);
                  if (open && !take(open.r, open.at, draft.text)) return;
                  setExtra({ ...extra, [r.id]: (extra[r.id] ?? 0) + 1 });
                  ask(keyOf(r, count));
                }}
              />
            </div>
            {typing?.r.id === r.id && draft && (
              <Keypad
                press={(k) => setDraft({ cell: draft.cell, text: pressed(draft.text, k, draft.fresh) })}
                done={() => {
                  if (take(typing.r, typing.at, draft.text)) onTo(typing.r, typing.at);
                }}
              />
            )}
            {doubt?.response === r.id && <Question doubt={doubt} keep={(value) => put(r, doubt.at, value)} />}
          </div>
        );
      })}
      {sentence && (
        <p className="danger" role="alert">
          {sentence}
        </p>
      )}
    </div>
  );
}
