"use client";
import { Button, Input, Select } from "antd";
import { useEffect, useRef, useState } from "react";
import { messageText } from "@/core/findings";
import { readNumber } from "@/core/formats";
import { type SettingChange, settingChanges, toSet } from "@/core/operator";
import { doubtful, type Factor, isNumeric, type Setting, type Study, type Trial } from "@/core/study";
import { settingText } from "@/ui/parts/format";
import css from "./bench.module.css";
import { Keypad, pressed, useInputMode } from "./keypad";

const clock = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit" });
const NUMBERS = ["nothing", "this one", "these two", "these three", "these four", "these five"];

/** One setting: large with what it was where it moves, quiet where it stays. */
function Line({ change, asRun }: { change: SettingChange; asRun: Setting | undefined }) {
  const { factor, from, to, changes } = change;
  const step = factor.kind === "continuous" && factor.step ? `step ${factor.step}` : "";
  const again = change.reset && !changes ? "reset, even if it shows the same" : "";
  const told = [isNumeric(factor) ? factor.unit : undefined, step, again].filter(Boolean).join(" · ");
  return (
    <div className={toSet(change) ? css.moves : css.stays}>
      <span>
        <b>{factor.name}</b>
        {toSet(change) && <em>{told}</em>}
      </span>
      <span className="num">
        {changes && from !== undefined && <s>{settingText(from)}</s>} <strong>{settingText(asRun ?? to)}</strong>
        {asRun !== undefined && <em> planned {settingText(to)}</em>}
        {!toSet(change) && isNumeric(factor) && factor.unit ? <em> {factor.unit}</em> : null}
      </span>
    </div>
  );
}

/** What was really set, factor by factor. */
function Otherwise({
  factors,
  trial,
  put,
  close,
}: {
  factors: readonly Factor[];
  trial: Trial;
  /** Answers why a setting cannot be taken. */
  put(factor: Factor, value: Setting | null): string | undefined;
  close(): void;
}) {
  const [draft, setDraft] = useState<{ factor: Factor; text: string; fresh: boolean } | undefined>(undefined);
  /** A setting that is doubted, until it is said to be right or another is typed. */
  const [doubt, setDoubt] = useState<{ factor: Factor; value: number; sentence: string } | undefined>(undefined);
  const [sentence, setSentence] = useState<string | undefined>(undefined);
  const inputMode = useInputMode();
  const keep = (factor: Factor, value: Setting | null): void => {
    setDoubt(undefined);
    setSentence(put(factor, value === trial.settings[factor.id] ? null : value));
  };
  // Who goes on without an answer keeps what was typed: nothing is lost, and it can be taken back.
  const standing = useRef<() => void>(() => undefined);
  standing.current = () => doubt && keep(doubt.factor, doubt.value);
  useEffect(() => () => standing.current(), []);
  const take = (factor: Factor, text: string): void => {
    setDraft(undefined);
    setDoubt(undefined);
    const value = readNumber(text.replace("−", "-"));
    if (value === undefined) {
      setSentence(`${factor.name}: “${text}” is not a number; type what was really set.`);
      return;
    }
    const odd = value === null || value === (trial.asRun?.[factor.id] ?? trial.settings[factor.id]);
    const asked = odd ? undefined : doubtful(factor, value);
    if (asked && value !== null) setDoubt({ factor, value, sentence: messageText("places", asked) });
    else keep(factor, value);
  };
  return (
    <div className={css.otherwise}>
      {factors.map((f) => {
        const stands = trial.asRun?.[f.id] ?? trial.settings[f.id];
        return (
          <div key={f.id} className={css.stays}>
            <b>{f.name}</b>
            {isNumeric(f) ? (
              <Input
                className={css.value}
                inputMode={inputMode}
                autoComplete="off"
                aria-label={`${f.name}, really set`}
                value={draft?.factor === f ? draft.text : doubt?.factor === f ? String(doubt.value) : String(stands)}
                status={doubt?.factor === f ? "warning" : ""}
                onFocus={(e) => {
                  e.currentTarget.select();
                  setDraft({ factor: f, text: String(stands), fresh: true });
                }}
                onChange={(e) => setDraft({ factor: f, text: e.target.value, fresh: false })}
                onBlur={() => draft?.factor === f && take(f, draft.text)}
                onKeyDown={(e) => {
                  if (e.key === "Enter") e.currentTarget.blur();
                }}
              />
            ) : (
              <Select
                size="large"
                aria-label={`${f.name}, really set`}
                style={{ minWidth: 160 }}
                value={String(stands)}
                options={f.levels.map((l) => ({ value: l, label: l }))}
                onChange={(level: string) => setSentence(put(f, level === trial.settings[f.id] ? null : level))}
              />
            )}
          </div>
        );
      })}
      {doubt && (
        <div className={css.doubt} role="alert">
          <span>{doubt.sentence}</span>
          <Button size="large" onClick={() => keep(doubt.factor, doubt.value)}>
            {doubt.value} is right
          </Button>
          <Button size="large" onClick={() => setDoubt(undefined)}>
            It was not
          </Button>
        </div>
      )}
      {sentence && (
        <p className="danger" role="alert">
          {sentence}
        </p>
      )}
      {draft && (
        <Keypad
          press={(k) => setDraft({ ...draft, text: pressed(draft.text, k, draft.fresh), fresh: false })}
          done={() => take(draft.factor, draft.text)}
        />
      )}
      <Button size="large" onClick={close}>
        Done
      </Button>
    </div>
  );
}

/** What has to be set for a trial: what moves stands out, the rest is quiet; when it stood; what was set otherwise. */
export function SettingsPanel({
  study,
  before,
  trial,
  setUp,
  put,
}: {
  study: Study;
  /** The trial the machine stands at. */
  before: Trial | undefined;
  trial: Trial;
  setUp(at: string | null): void;
  put(factor: Factor, value: Setting | null): string | undefined;
}) {
  const [otherwise, setOtherwise] = useState(false);
  const changes = settingChanges(study, before, trial);
  const moving = changes.filter(toSet).length;
  const opens = changes.some((c) => c.reset) ? `New set-up, number ${trial.setup}. ` : "";
  const heading =
    before === undefined
      ? "Set all of these"
      : moving === 0
        ? "Leave everything as it stands"
        : moving === changes.length
          ? "Change all of these"
          : `Change ${NUMBERS[moving] ?? `these ${moving}`}, leave the rest`;
  return (
    <section className={css.card} aria-label="Settings">
      <p className={css.heading}>
        {opens}
        {heading}
      </p>
      {otherwise ? (
        <Otherwise factors={changes.map((c) => c.factor)} trial={trial} put={put} close={() => setOtherwise(false)} />
      ) : (
        <>
          {changes.map((c) => (
            <Line key={c.factor.id} change={c} asRun={trial.asRun?.[c.factor.id]} />
          ))}
          <div className={css.acts}>
            <Button
              size="large"
              className={trial.setUp ? css.done : ""}
              onClick={() => setUp(trial.setUp ? null : new Date().toISOString())}
            >
              {trial.setUp ? `Set up at ${clock.format(new Date(trial.setUp))} ✓` : "Set up"}
            </Button>
            <Button size="large" onClick={() => setOtherwise(true)}>
              It was set otherwise
            </Button>
          </div>
        </>
      )}
    </section>
  );
}
