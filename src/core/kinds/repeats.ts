import { type DecimalMark, readNumber } from "../numerics/read-number";

/** What a cell of results says, or why it cannot be told: no number, or one that may be several. */
export type ResultCell = { ok: true; value: number | (number | null)[] | null } | { ok: false; why: "none" | "either" };

/** Groups of three figures with plain spaces between: thousands, or three-figure repeats. */
const EITHER = /^[-+]?\d{1,3}( +\d{3})+([.,]\d+)?$/;

/**
 * Reads a cell of results: one number, or repeats with spaces, semicolons or strokes between. “600 610” may be either
 * and is not guessed at; a narrow or unbreakable space stands between thousands alone.
 */
export function readResultCell(text: string, decimal: DecimalMark = "either"): ResultCell {
  const t = text.trim();
  if (EITHER.test(t)) return { ok: false, why: "either" };
  const whole = readNumber(t, decimal);
  if (whole !== undefined) return { ok: true, value: whole };
  const parts = t.split(/[; /\t\r\n]+/).filter(Boolean);
  const values = parts.map((p) => readNumber(p, decimal));
  if (parts.length > 1 && values.every((v): v is number | null => v !== undefined)) return { ok: true, value: values };
  return { ok: false, why: "none" };
}

/**
 * A cell's values among the repeats of its trial: at the place of its column, or behind what stands there already where
 * a cell holds several.
 *
 * @param repeat of the column, counted from 1; 0 where it is the only one
 * @param from how many repeats earlier rows of the trial gave
 */
export function placed(
  repeats: readonly (number | null)[],
  value: number | (number | null)[] | null,
  repeat: number,
  from = 0,
): (number | null)[] {
  const out = [...repeats];
  const at = from + Math.max(0, repeat - 1);
  const values = Array.isArray(value) ? value : [value];
  const to = values.length === 1 && out[at] === undefined ? at : out.length;
  for (const [k, v] of values.entries()) out[to + k] = v;
  return out;
}
