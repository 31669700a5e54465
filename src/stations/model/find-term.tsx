"use client";
import { AutoComplete } from "antd";
import { useState } from "react";
import { alphabetOf, type Term, termKey, termLetters, termName } from "@/core/study";
import { useDeskStore } from "@/ui/desk/store";
import css from "./model.module.css";

/** Terms offered at most while one types. */
const MOST_OFFERED = 40;

const simple = (text: string): string => text.toLowerCase().replace(/[^\p{L}\p{N}²³]+/gu, "");

export interface FindTermProps {
  further(): Term[];
  add(term: Term): void;
  close(): void;
}

/** Finds a term that has no rung of its own by its letters or its factors' names, and takes it into the model. */
export function FindTerm({ further, add, close }: FindTermProps) {
  const [text, setText] = useState("");
  const desk = useDeskStore();
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
    close();
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
        if (e.key === "Escape") close();
      }}
      onBlur={close}
    />
  );
}
