/** Studies, sheets, workbooks and numbers as people and programs write them, read and written. */

export { readResultCell } from "../kinds/repeats";
export { readNumber } from "../numerics/read-number";
export { checkAnswer, MOST_ANSWER, type Outcome, outcomeEdits, programAnswer, readAnswer } from "../programs/answer";
export { type Asked, askedOf } from "../programs/asked";
export { matchColumns } from "./columns";
export { csvOf, ledgerCsv, planCsv, readSheet, rowsText } from "./csv";
export { type ForeignWave, waveFromSheet } from "./foreign-wave";
export { parseJson } from "./json";
export { MOST_SHEET_BYTES } from "./limits";
export {
  freshId,
  goalExample,
  goalText,
  type RangeWords,
  rangeText,
  readAim,
  readConfidence,
  readGoal,
  readRange,
  readRegion,
  readShare,
  readSpan,
  shareText,
} from "./phrases";
export { type ImportPreview, importEdits, previewImport } from "./sheet-import";
export { ROLES, type Role, type StartColumn, type StartSheet, startFrom, startSheet } from "./start-sheet";
export { readStudyFile, writeStudyFile } from "./study-file";
export { readWorkbook, type WorkbookSheet } from "./workbook";
export { writeWorkbook } from "./workbook-out";
