import type { Change, Resetting, Size, Unit } from "../../messages/message";
import { counted, figure, listed, pText, rounded, withUnit } from "../numbers";

/** Parts of sentences that several rooms share. */

/** The unit of a size; one in per cent is in points, since "−0.2 %" would be a part of what stood there. */
export const unitText = (unit: Unit): string =>
  typeof unit !== "string" ? `on the ${unit.scale} scale` : unit.trim() === "%" ? "points" : unit;

/** A size with its unit, to what its error makes meaningful; on a link by what odds or rates are multiplied by. */
export const sized = ({ value, error, unit }: Size): string =>
  typeof unit !== "string" && unit.times !== undefined
    ? `${unit.times} × ${figure(Math.exp(value))}`
    : withUnit(rounded(value, error), unitText(unit));

/** How far a main effect or a level moves the response, and between what. */
export const changed = (size: Change): string =>
  size.from !== undefined && size.to !== undefined
    ? `${sized(size)} from ${size.from} to ${size.to}`
    : `${sized(size)}${size.ends ? " from low to high" : ""}`;

/** " (−2 to 5)", or nothing. */
export const within = (interval: readonly [number, number] | null, error: number | null): string =>
  interval ? ` (${rounded(interval[0], error)} to ${rounded(interval[1], error)})` : "";

export const either = (names: readonly string[]): string =>
  names.length < 2 ? names.join("") : `${names.slice(0, -1).join(", ")} or ${names[names.length - 1]}`;

/** The first few of a list, and how many more. */
export const firstOf = (names: readonly string[], most: number): string =>
  `${listed(names.slice(0, most))}${names.length > most ? ` and ${names.length - most} more` : ""}`;

/** "is", "are": what goes with so many. */
export const verb = (n: number, one: string, many: string): string => (n === 1 ? one : many);

/** "12, 14, …" */
export const some = (orders: readonly number[], most = 4): string =>
  `${orders.slice(0, most).join(", ")}${orders.length > most ? ", …" : ""}`;

/** A p with what it is among all checks. */
export const judged = ({ p, adjusted }: { p: number; adjusted: number }): string =>
  `${pText(p)}; ${adjusted.toFixed(2)} among all checks`;
export const alone = ({ p, adjusted }: { p: number; adjusted: number }): string =>
  `${pText(p)} alone, ${adjusted.toFixed(2)} among all checks`;

/** Columns times their factors, as a sum: "A × B − 0.5 C". */
export const sumText = (parts: readonly { name: string; factor: number }[]): string =>
  [...parts]
    .sort((a, b) => Number(b.factor > 0) - Number(a.factor > 0))
    .map((e, i) => {
      const sign = e.factor < 0 ? (i === 0 ? "−" : " − ") : i === 0 ? "" : " + ";
      const size = Math.abs(e.factor);
      // Factors come out of a decomposition: 1 within rounding is 1.
      return `${sign}${Math.abs(size - 1) < 1e-9 ? "" : `${figure(size)} `}${e.name}`;
    })
    .join("");

/** A chance in per cent; what draws cannot tell from certain is not called certain. */
export const chanceText = (p: number): string =>
  p > 0.9985
    ? "over 99.8 %"
    : p < 0.0015
      ? "under 0.2 %"
      : p > 0.985
        ? `${(100 * p).toFixed(1)} %`
        : `${(100 * p).toFixed(0)} %`;

const NUMBERS =
  "none one two three four five six seven eight nine ten eleven twelve thirteen fourteen fifteen sixteen seventeen eighteen nineteen".split(
    " ",
  );
const TENS = [undefined, undefined, "twenty", "thirty", "forty"];

/** Numbers as words, where a sentence counts with them; from fifty on as figures. */
export function inWords(n: number): string {
  const tens = TENS[Math.floor(n / 10)];
  if (NUMBERS[n] !== undefined || tens === undefined) return NUMBERS[n] ?? String(n);
  return n % 10 === 0 ? tens : `${tens}-${NUMBERS[n % 10]}`;
}

/** What ends a list of sizes that are on offer. */
export const notOne = (asked: number | null): string => (asked === null ? "say which" : `${asked} is not one of them`);

/** "Heat from 52 to 68 °C". */
export const resettingText = (m: Resetting): string => `${m.factor} from ${m.from} to ${m.to}`;

/** What a variance is to another's: "as large as that of trials", "4 times that of trials" follow it. */
export const asMuch = (ratio: number): string => (ratio === 1 ? "as large as" : `${figure(ratio)} times`);

/** A cost with its unit; in trials where no other is stated. */
export const costText = ({ unit }: { unit: string | undefined }, cost: number): string =>
  unit === undefined ? counted(Number(cost.toPrecision(4)), "trial") : withUnit(figure(cost, 3), unit);
