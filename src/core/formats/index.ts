/** Studies, sheets, workbooks and numbers as people and programs write them, read and written. */

export { checkAnswer, MOST_ANSWER, type Outcome, outcomeEdits, programAnswer, readAnswer } from "../programs/answer";
export { type Asked, askedOf } from "../programs/asked";
export { matchColumns } from "./columns";
export { countedText, readResponseCell } from "./counted-cell";
export { csvOf, ledgerCsv, planCsv, readSheet } from "./csv";
export { type ForeignWave, waveFromSheet } from "./foreign-wave";
export { parseJson } from "./json";
export { MOST_SHEET_BYTES } from "./limits";
export { readNumber } from "./number";
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
export { readResultCell } from "./result-cell";
export { type ImportPreview, importEdits, previewImport } from "./sheet-import";
export { ROLES, type Role, type StartColumn, type StartSheet, startFrom, startSheet } from "./start-sheet";
export { readStudyFile, writeStudyFile } from "./study-file";
export { readWorkbook, type WorkbookSheet } from "./workbook";
export { writeWorkbook } from "./workbook-out";
