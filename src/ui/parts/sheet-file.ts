import { messageText } from "@/core/findings";
import { MOST_SHEET_BYTES } from "@/core/formats";
import { workbookBeside } from "../compute/shared-worker";

/** Files that hold a sheet. */
export const SHEET_FILES = ".xlsx,.xlsm,.csv,.tsv,.txt,text/*";

const WORKBOOK = /\.(xlsx|xlsm|xls)$/i;

/** The sheet in a file as text, with what is said of it; or why it cannot be read. */
export type SheetFile = { ok: true; text: string; remarks: string[] } | { ok: false; sentence: string };

/** Reads the sheet in a file: text as it is, the sheet of a workbook as text with tabs between. */
export async function sheetFile(file: File): Promise<SheetFile> {
  const book = WORKBOOK.test(file.name);
  const most = book ? MOST_SHEET_BYTES.workbook : MOST_SHEET_BYTES.text;
  if (file.size > most) {
    const [size, at] = [file.size, most].map((b) => (b / 1e6).toFixed(0));
    return {
      ok: false,
      sentence: `${file.name} holds ${size} MB; a sheet holds at most ${at}. Save only the columns that are needed.`,
    };
  }
  if (!book) return { ok: true, text: await file.text(), remarks: [] };
  const answer = await workbookBeside(new Uint8Array(await file.arrayBuffer())).catch(() => ({
    ok: false as const,
    sentence: "The workbook could not be read in this page; choose it again.",
  }));
  if (!answer.ok) return { ok: false, sentence: `${file.name}: ${answer.sentence}` };
  return { ok: true, text: answer.read.text, remarks: answer.read.remarks.map((r) => messageText("workbooks", r)) };
}
