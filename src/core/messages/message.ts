/**
 * What the core says in sentences: each has a code and the figures it is made of, and every language puts them into
 * words in its own way. Figures stay numbers until then; names are what a person called things.
 */

/** A sentence before it is one: its code with the figures it needs. */
export type Message<V> = { [C in keyof V]: { code: C; values: V[C] } }[keyof V];

/** Words for every code. */
export type Words<V> = { [C in keyof V]: (values: V[C]) => string };

/** The sentence of what is said. */
export function formatMessage<V>(words: Words<V>, said: Message<V>): string {
  const word = words[said.code] as (values: unknown) => string;
  return word(said.values);
}

/** What a size is counted in: a unit as a person wrote it, or the scale a response is fitted on. */
export type Unit = string | { scale: string; times?: "odds" | "rate" };

/** A size with the error that says how much of it is meaningful. */
export interface Size {
  value: number;
  error: number | null;
  unit: Unit;
}

/** A size between two levels, or from the low to the high end of a range. */
export interface Change extends Size {
  from?: string;
  to?: string;
  ends: boolean;
}

/** What must be set anew: the factor with its old and new setting as they are written. */
export interface Resetting {
  factor: string;
  from: string;
  to: string;
}
