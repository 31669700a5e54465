import "../no-eval";
import { expose } from "comlink";
import { readWorkbook, type WorkbookSheet } from "@/core/formats";
import { StudyError } from "@/core/study";
import { asker } from "./steps";

/** What a workbook holds, or why it cannot be read. */
export type WorkbookAnswer = { ok: true; read: WorkbookSheet } | { ok: false; sentence: string };

async function workbook(bytes: Uint8Array): Promise<WorkbookAnswer> {
  try {
    return { ok: true, read: await readWorkbook(bytes) };
  } catch (error) {
    if (error instanceof StudyError) return { ok: false, sentence: error.message };
    throw error;
  }
}

const worker = { ask: asker(), workbook };
/** What the worker offers to the page. */
export type ComputeWorker = typeof worker;
expose(worker);
