import { expect, it } from "vitest";
import type { Reading } from "../findings/reading";
import { messageText } from "../words/answers";

/** Sentence of a reading, undefined where there is none. */
export const saidBy = (reading: Reading | undefined): string | undefined => reading && messageText("readings", reading);

/** Text of the first reading whose id begins so; empty where none does. */
export const textOf = (readings: readonly Reading[], id: string): string =>
  readings.filter((r) => r.id.startsWith(id)).map((r) => messageText("readings", r))[0] ?? "";

/** A reading fires on the first study, in these words and figures, and not on the second, which misses by a little. */
export function fires(id: string, said: string | RegExp, on: () => Reading[], off: () => Reading[]): void {
  it(`${id} fires with its figures, and a near miss does not`, () => {
    const text = textOf(on(), id);
    if (typeof said === "string") expect(text).toBe(said);
    else expect(text).toMatch(said);
    expect(off().filter((r) => r.id.startsWith(id))).toEqual([]);
  });
}
