import type { Words } from "../../messages/message";
import type { ColumnValues, RowValues, TypingValues } from "../../messages/typed";
import { written } from "../numbers";
import { countedFaultText } from "./counted";
import { inWords } from "./parts";

/** A number as a person would type it: without the dust of arithmetic. */
const typed = (v: number): string => written(Number(v.toPrecision(12)));

const LIMIT = "1 × Temperature + 4 × Dose ≤ 96";
const COMBINATION = "Lot is lowland and Temperature is 64 to 68";

/** What cannot be read of what was typed into one cell, by code; `example` is what would be read. */
export const typings: Words<TypingValues> = {
  "no-range": (v) => `“${v.text}” is not a range; type it like 52 to 68.`,
  "range-upside-down": (v) => {
    const least = Math.min(v.low, v.high);
    const most = Math.max(v.low, v.high) + (v.low === v.high ? 1 : 0);
    return `Low (${typed(v.low)}) must be below high (${typed(v.high)}); type it like ${typed(least)} to ${typed(most)}.`;
  },
  "range-empty": () => "Type a range like 52 to 68, values like 1, 2, 4, or levels like hill, lowland.",
  "range-alone": (v) => `“${v.text}” alone does not vary; type a range like 52 to 68 or at least two levels.`,
  "range-twice": (v) => `“${v.text}” is listed twice; list each once.`,
  "no-aim": (v) =>
    `“${v.text}” is not an aim; raise, lower, hit, within and watch are understood, also maximise, minimise, target and between.`,
  "no-limits": (v) => `“${v.text}” is not a pair of limits; type it like ${v.example}.`,
  "limits-alike": (v) => `Both limits are ${typed(v.limit)}; they must differ, like ${v.example}.`,
  "aim-no-number": (v) => `The aim “${v.text}” is not a number; type it like ${v.example}.`,
  "aim-outside": (v) => `The aim (${typed(v.aim)}) must lie between ${typed(v.low)} and ${typed(v.high)}.`,
  "no-confidence": (v) => `“${v.text}” is not a confidence between 50 and 100 %; type it like 95 % or 99.`,
  "no-span": (v) => `“${v.text}” is not a pair of limits; type it like 48 to 72, or leave it empty.`,
  "bound-no-number": (v) => `“${v.text}” is not a number; end the limit like ≤ 96.`,
  "limit-no-factor": (v) => `“${v.text}” names no factor; write it like 4 × ${v.like}.`,
  "limit-category": (v) =>
    `${v.factor} is a category; forbid a combination instead, like “${v.factor} is ${v.level} and …”.`,
  "limit-empty": () => "The limit names no factor before its sign.",
  "no-region": (v) =>
    `“${v.text}” cannot be read; write a limit like ${LIMIT}, or a combination like “${COMBINATION}”.`,
  "no-factor": (v) => `There is no factor called “${v.text}”.`,
  "no-level": (v) => `“${v.text}” is not a level of ${v.factor}; its levels are ${v.levels.join(", ")}.`,
  "no-setting": (v) => `“${v.text}” cannot be read for ${v.factor}; write it like 64 to 68 or at least 64.`,
  "no-letter": (v) => `“${v.text}” is not the letter of a factor; letters are ${v.letters.join(", ")}.`,
  "no-letters": () => "Type the letters of a term, such as ABC or AAA.",
  "many-letters": (v) =>
    `A term of more than ${inWords(v.most)} letters is not offered; use ${inWords(v.most)} at most.`,
  "category-squared": (v) => `${v.factor} is a category and has no square.`,
  "region-empty": () => `Write a limit like ${LIMIT}, or a combination like “${COMBINATION}”.`,
};

const left = "the row is left out";

/** What is not taken of a row of a sheet, by code. */
export const rows: Words<RowValues> = {
  "row-no-setting": (v) => `Row ${v.row}: “${v.text}” is not a setting of ${v.factor}; ${left}.`,
  "row-no-number": (v) => `Row ${v.row}: “${v.text}” is not a number; ${left}.`,
  "row-no-setup": (v) =>
    `Row ${v.row}: “${v.text}” is no number of a set-up; number them 1, 2, … as they were run. The row is left out.`,
  "row-counted": (v) => `Row ${v.row}, ${v.column}: ${countedFaultText(v.fault)}. The row is left out.`,
  "row-either": (v) =>
    `Row ${v.row}: “${v.text}” may be one number or several; write it without spaces, or with semicolons between. The row is left out.`,
  "row-no-place": (v) => `Row ${v.row}: no trial${v.taken ? " is left" : ""} with these settings; ${left}.`,
  "row-no-trial": (v) => `Row ${v.row}: there is no trial ${v.named || "without a number"}; ${left}.`,
  "row-other-number": (v) => `Row ${v.row}: trial ${v.trial} has the number ${v.order}, not ${v.number}; ${left}.`,
  "row-other-settings": (v) => `Row ${v.row}: its settings are not those of trial ${v.order}; ${left}.`,
  "row-twice": (v) => `Row ${v.row}: trial ${v.order} stands in the sheet twice; the second row is left out.`,
  "row-differs": (v) =>
    `Row ${v.row}: an earlier row of trial ${v.order} says ${v.first} for ${v.what}, this one ${v.text}; the first is kept.`,
  "cell-either": (v) =>
    `Row ${v.row}: “${v.text}” in ${v.column} may be one number or several; write it without spaces, or with semicolons between. That cell is left as it was.`,
  "cell-no-setting": (v) => `Row ${v.row}: “${v.text}” is not a setting of ${v.factor}; that cell is left as it was.`,
  "cell-no-number": (v) => `Row ${v.row}: “${v.text}” is not a number; that cell is left as it was.`,
  "cell-no-value": (v) => `Row ${v.row}: “${v.text}” in ${v.column} is not a number; that cell is left as it was.`,
  "cell-counted": (v) => `Row ${v.row}, ${v.column}: ${countedFaultText(v.fault)}. That cell is left as it was.`,
  "line-counted": (v) => `Line ${v.row}, ${v.column}: ${countedFaultText(v.fault)}.`,
  "line-no-trial": (v) => `Line ${v.row}: there is no trial left for it.`,
  "line-too-many": (v) =>
    `A trial holds at most ${v.most.toLocaleString("en")} values of a response; what stands behind is left.`,
  "line-outside": (v) => `Line ${v.row}: “${v.text}” falls outside the results.`,
  "line-either": (v) =>
    `Line ${v.row}: “${v.text}” may be one number or several; write it without spaces, or with semicolons between.`,
  "line-no-result": (v) =>
    `Line ${v.row}: “${v.text}” is not a number; type one value, or repeats with spaces between.`,
};

/** What is odd about a column of a sheet, by code. */
export const columns: Words<ColumnValues> = {
  "column-empty": () => "It holds nothing.",
  "column-constant": (v) => `Every row says ${v.value}: what never changes tells nothing.`,
  "column-odd": (v) => `${v.cells === 1 ? "One cell is" : `${v.cells} cells are`} no number, such as “${v.such}”.`,
  "column-twin": (v) => `It is ${v.of} in coded units, −1 at low and +1 at high.`,
};
