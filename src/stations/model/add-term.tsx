"use client";
import { AutoComplete, Button } from "antd";
import { memo, useState } from "react";
import {
  activeFactors,
  alphabetOf,
  type Fitted,
  isNumeric,
  type Study,
  type Term,
  termKey,
  termLetters,
  termName,
} from "@/core";
import { useDeskStore } from "@/ui/desk/store";
import css from "./model.module.css";

/** Terms offered at most while one types. */
const MOST_OFFERED = 40;

/** Terms that no rung stands for: interactions of three factors, bends of bends and slopes that bend. */
export function furtherTerms(study: Study, fitted: Fitted): Term[] {
  const standing = new Set(fitted.ladder.rungs.map((r) => r.key));
  const factors = activeFactors(study);
  const numeric = factors.filter(isNumeric).filter((f) => f.kind === "continuous" || f.values.length > 2);
  const ids = factors.map((f) => f.id);
  const terms: Term[] = [
    ...numeric.map((f): Term => [f.id, f.id]),
    ...ids.flatMap((a, i) => ids.slice(i + 1).map((b): Term => [a, b])),
    ...ids.flatMap((a, i) => ids.slice(i + 1).flatMap((b, j) => ids.slice(i + j + 2).map((c): Term => [a, b, c]))),
    ...numeric.flatMap((f) => ids.filter((g) => g !== f.id).map((g): Term => [f.id, f.id, g])),
    ...numeric.map((f): Term => [f.id, f.id, f.id]),
  ];
  return terms.filter((t) => !standing.has(termKey(t)));
}

const simple = (text: string): string => text.toLowerCase().replace(/[^\p{L}\p{N}²³]+/gu, "");

/** Takes a term into the model that has no rung of its own, found by its letters or its factors' names. */
export const AddTerm = memo(function AddTerm({ further, add }: { further(): Term[]; add(term: Term): void }) {
  const [text, setText] = useState<string | undefined>(undefined);
  const desk = useDeskStore();
  if (text === undefined)
    return (
      <Button size="small" onClick={() => setText("")}>
        Add a term…
      </Button>
    );
  const alphabet = alphabetOf(desk.getState().study);
  const typed = simple(text);
  const found = further()
    .filter(
      (t) =>
        typed === "" ||
        simple(termName(alphabet, t)).includes(typed) ||
        simple(termLetters(alphabet, t)).startsWith(typed),
    )
    .slice(0, MOST_OFFERED);
  const take = (key: string): void => {
    const term = found.find((t) => termKey(t) === key);
    if (!term) return;
    setText(undefined);
    add(term);
  };
  return (
    <AutoComplete
      className={css.addTerm}
      aria-label="Term to add"
      placeholder="letters or names, like ABC"
      autoFocus
      defaultOpen
      size="small"
      value={text}
      options={found.map((t) => ({
        value: termKey(t),
        label: `${termLetters(alphabet, t)}  ${termName(alphabet, t)}`,
        "data-choice": termLetters(alphabet, t),
      }))}
      notFoundContent="No further term of these factors is called so."
      onSearch={setText}
      onSelect={take}
      onKeyDown={(e) => {
        if (e.key === "Escape") setText(undefined);
      }}
      onBlur={() => setText(undefined)}
    />
  );
});
