import type { Settings, Study, Term } from "../study/schema";
import { gram, solve } from "./elimination";
import { cont, studyOf } from "./studies";

/** A study of factors a, b, … hard to change and p, q, … easy ones, from −1 to 1. */
export const splitStudy = (hard: number, easy: number, more: object = {}): Study =>
  studyOf(
    [
      ...Array.from({ length: hard }, (_, i) => cont(String.fromCharCode(97 + i), { change: "hard" })),
      ...Array.from({ length: easy }, (_, i) => cont(String.fromCharCode(112 + i))),
    ],
    more,
  );

/** Terms written by their letters, a constant first: "ab" is a × b, "aa" its square. */
export const rowsOf = (settings: readonly Settings[], terms: readonly string[]): number[][] =>
  settings.map((s) => [1, ...terms.map((t) => [...t].reduce((v, id) => v * (s[id] as number), 1))]);

export const termsOf = (letters: readonly string[]): Term[] => letters.map((t) => [...t]);

/** All terms up to second order. */
export function quadratic(ids: string): string[] {
  const all = [...ids];
  return [...all, ...all.flatMap((a, i) => all.slice(i + 1).map((b) => a + b)), ...all.map((a) => a + a)];
}

/** V⁻¹ of V = I + ηZZ′, column by column by elimination. */
export function weights(setups: readonly unknown[], eta: number): number[][] {
  const v = setups.map((s, i) => setups.map((t, j) => (i === j ? 1 : 0) + (s === t ? eta : 0)));
  return v.map((_, j) =>
    solve(
      v,
      v.map((__, i) => (i === j ? 1 : 0)),
    ),
  );
}

/** X′V⁻¹X, written out. */
export function informationUnder(
  x: readonly (readonly number[])[],
  setups: readonly unknown[],
  eta: number,
): number[][] {
  const w = weights(setups, eta);
  const wx = w.map((row) => x[0].map((_, j) => row.reduce((t, v, i) => t + v * x[i][j], 0)));
  return x[0].map((_, a) => x[0].map((__, b) => x.reduce((t, row, i) => t + row[a] * wx[i][b], 0)));
}

/** Largest difference between the weights that least squares and generalised least squares give the results. */
export function apart(x: readonly (readonly number[])[], setups: readonly unknown[], eta: number): number {
  const w = weights(setups, eta);
  const m = informationUnder(x, setups, eta);
  const plain = gram(x);
  let most = 0;
  for (let i = 0; i < x.length; i++) {
    const right = x[0].map((_, j) => x.reduce((t, row, k) => t + row[j] * w[k][i], 0));
    const gls = solve(m, right);
    const ols = solve(plain, [...x[i]]);
    gls.forEach((v, j) => {
      most = Math.max(most, Math.abs(v - ols[j]));
    });
  }
  return most;
}
