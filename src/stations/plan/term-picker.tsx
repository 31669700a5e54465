"use client";
import { Button, Input } from "antd";
import { useState } from "react";
import {
  activeFactors,
  alphabetOf,
  canBend,
  readTypedTerm,
  type Study,
  type Term,
  termKey,
  termLetters,
  termName,
} from "@/core/study";
import { LinkButton, Toggle } from "@/ui/parts/link-button";
import { Popover } from "@/ui/parts/overlays";
import { colours } from "@/ui/theme/theme";

/** Terms picked one by one: a triangle to tick, and a line for cubic and three-factor terms. */
export function TermPicker({
  study,
  terms,
  set,
  active,
}: {
  study: Study;
  terms: readonly Term[];
  set(terms: Term[]): void;
  active: boolean;
}) {
  const [open, setOpen] = useState(false);
  const [text, setText] = useState("");
  const [sentence, setSentence] = useState<string | undefined>(undefined);
  const factors = activeFactors(study);
  const alphabet = alphabetOf(study);
  const keys = new Set(terms.map(termKey));
  const toggle = (t: Term): void =>
    set(keys.has(termKey(t)) ? terms.filter((x) => termKey(x) !== termKey(t)) : [...terms, t]);
  const box = (t: Term) => (
    <button
      key={termKey(t)}
      type="button"
      aria-pressed={keys.has(termKey(t))}
      aria-label={termName(alphabet, t)}
      title={termName(alphabet, t)}
      onClick={() => toggle(t)}
      style={{
        width: 22,
        height: 22,
        border: `1px solid ${colours.hairline}`,
        borderRadius: 3,
        background: keys.has(termKey(t)) ? colours.accent : colours.raised,
        color: keys.has(termKey(t)) ? colours.raised : colours.quiet,
        fontSize: 10.5,
        padding: 0,
        cursor: "pointer",
      }}
      className="num"
    >
      {t.length === 1 ? termLetters(alphabet, t) : t[0] === t[1] ? "²" : ""}
    </button>
  );
  const higher = terms.filter((t) => t.length > 2);
  const add = (): void => {
    const read = readTypedTerm(study, text);
    if (!read.ok) setSentence(read.sentence);
    else {
      if (!keys.has(termKey(read.term))) set([...terms, read.term]);
      setText("");
      setSentence(undefined);
    }
  };
  const trigger = (
    <Toggle on={active} {...(open ? {} : { onClick: () => setOpen(true) })}>
      {active ? `${terms.length} picked` : "pick terms"}
    </Toggle>
  );
  if (!open) return trigger;
  return (
    <Popover
      open
      onOpenChange={setOpen}
      trigger="click"
      placement="bottomLeft"
      content={
        <div style={{ maxWidth: 420 }}>
          <p className="small quiet" style={{ marginBottom: 6 }}>
            Tick what must be told apart: main effects in the first row, squares on the diagonal, interactions below.
          </p>
          <div
            style={{
              display: "grid",
              gap: 2,
              gridTemplateColumns: `18px repeat(${factors.length}, 22px)`,
              overflow: "auto",
            }}
          >
            <span aria-hidden="true" />
            {factors.map((f) => box([f.id]))}
            {factors.flatMap((f, i) => [
              <span key={f.id} className="num small quiet" aria-hidden="true" title={f.name}>
                {f.letter}
              </span>,
              ...factors.map((g, j) =>
                j < i ? (
                  box([g.id, f.id])
                ) : j === i && canBend(f) ? (
                  box([f.id, f.id])
                ) : (
                  <span key={`${f.id}|${g.id}`} aria-hidden="true" />
                ),
              ),
            ])}
          </div>
          <form
            className="row"
            style={{ marginTop: 8 }}
            onSubmit={(e) => {
              e.preventDefault();
              add();
            }}
          >
            <Input
              className="num"
              style={{ width: 120 }}
              aria-label="Higher term in letters"
              placeholder="ABC or AAA"
              value={text}
              onChange={(e) => setText(e.target.value)}
            />
            <Button htmlType="submit" size="small" disabled={text.trim() === ""}>
              Add
            </Button>
            {higher.map((t) => (
              <LinkButton
                key={termKey(t)}
                className="small num"
                aria-label={`Take out ${termName(alphabet, t)}`}
                onClick={() => toggle(t)}
              >
                {termLetters(alphabet, t)} ×
              </LinkButton>
            ))}
          </form>
          {sentence && (
            <p className="danger small" role="alert" style={{ marginTop: 4 }}>
              {sentence}
            </p>
          )}
        </div>
      }
    >
      {trigger}
    </Popover>
  );
}
