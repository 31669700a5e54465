import type { Words } from "../../messages/message";
import type { Cells, WorkbookValues } from "../../messages/workbooks";
import { counted } from "../numbers";

const cellsText = ({ count, named }: Cells): string =>
  `(${named.join(", ")}${count > named.length ? ` and ${counted(count - named.length, "more", "more")}` : ""})`;
const be = (n: number): string => (n === 1 ? "is" : "are");
const was = (n: number): string => (n === 1 ? "was" : "were");

/** What is said of a workbook that was read, by code. */
export const workbooks: Words<WorkbookValues> = {
  "book-sheet": (v) =>
    `Read: the sheet “${v.sheet}”; beside it ${be(v.others.length)} ${v.others.map((o) => `“${o}”`).join(", ")}.`,
  "book-above": (v) => `${counted(v.rows, "row")} above the headings ${was(v.rows)} left out.`,
  "book-merged": (v) =>
    `${counted(v.count, "group")} of merged cells ${cellsText(v)} ${was(v.count)} read as the first cell, the rest as empty.`,
  "book-hidden": (v) =>
    `${[...(v.columns > 0 ? [counted(v.columns, "hidden column")] : []), ...(v.rows > 0 ? [counted(v.rows, "hidden row")] : [])].join(" and ")} ${was(v.columns + v.rows)} read like the others.`,
  "book-errors": (v) => `${counted(v.count, "cell")} in error ${cellsText(v)} ${was(v.count)} read as empty.`,
  "book-unworked": (v) =>
    `${counted(v.count, "formula")} ${cellsText(v)} ${was(v.count)} never worked out and read as empty: open the workbook in a spreadsheet, save it, and bring it again.`,
  "book-dates": (v) =>
    `${counted(v.cells, "cell")} ${v.cells === 1 ? "holds a date and was" : "hold dates and were"} read as year-month-day; a number that a spreadsheet made a date of must be typed anew.`,
  "book-macros": () => "The workbook's macros were left alone.",
};
