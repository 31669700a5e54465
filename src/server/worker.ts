import { setPriority } from "node:os";
import type { MessagePort } from "node:worker_threads";
import { messageText } from "@/core/findings";
import {
  type ImportPreview,
  importEdits,
  ledgerCsv,
  previewImport,
  writeStudyFile,
  writeWorkbook,
} from "@/core/formats";
import { ask, type Progress, type QuestionId, receiver } from "@/core/questions";
import { type Edit, parseStudy, rewind, type Study, StudyError, studyFaults } from "@/core/study";
import { factsOf, newStudy } from "./rows";
import { LISTENS, STOP } from "./stop-sign";

/** What the pool hands to a thread: a question, files or a sheet to read, or data to look through. */
export interface Task {
  question?: QuestionId;
  /** As the server holds it, and so read. */
  study?: Study;
  input?: unknown;
  files?: readonly unknown[];
  /** A study of which it is told what Home lists of it. */
  listed?: Study;
  /** Data of which every fault is told. */
  suspect?: unknown;
  /** Changes of a study to be taken back, the last first, each as it was logged. */
  past?: readonly string[];
  /** What the study given is to be written as. */
  written?: "csv" | "xlsx" | "json";
  /** A sheet of text for the study given. */
  sheet?: string;
  rowsAreRepeats?: boolean;
  /** Carries progress out. */
  port: MessagePort;
  /** Asks it to stop. */
  stop: Int32Array;
}

export type Answer =
  | { ok: true; value: unknown }
  | { ok: false; stopped: true }
  | { ok: false; stopped: false; said: StudyError["said"]; path: StudyError["path"] };

/** How far computing steps back, in steps of the system's own scale of 40. */
const LOWER = 10;
// Entries and changes go before computing, however much is computed (on Linux a thread has a priority of its own).
setPriority(LOWER);

/** What is derived of a study stands from one question to the next. */
const receive = receiver();

/** Pause between two copies of the best so far, in milliseconds: they may be large. */
const BEST_EVERY = 250;

/** What a sheet would change in a study, in words and as edits. */
export interface SheetReading {
  changes: ImportPreview["changes"];
  untaken: ImportPreview["untaken"];
  repeats: ImportPreview["repeats"];
  again: number;
  problems: string[];
  edits: Edit[];
}

function readSheetFor(study: Study, sheet: string, rowsAreRepeats: boolean): SheetReading {
  const preview = previewImport(study, sheet, { rowsAreRepeats });
  const { changes, untaken, repeats, again, problems } = preview;
  const edits = importEdits(study, preview);
  return { changes, untaken, repeats, again, problems: problems.map((p) => messageText("rows", p.said)), edits };
}

async function answerOf(task: Task): Promise<Answer> {
  const { question, study, input, files, port, stop } = task;
  if (task.listed) return { ok: true, value: factsOf(task.listed) };
  if ("suspect" in task) return { ok: true, value: studyFaults(task.suspect) };
  if (files) return { ok: true, value: files.map((f) => newStudy(parseStudy(f))) };
  if (!study) throw new Error("A task without a study");
  if (task.sheet !== undefined)
    return { ok: true, value: readSheetFor(study, task.sheet, task.rowsAreRepeats === true) };
  if (task.written === "xlsx") return { ok: true, value: await writeWorkbook(study) };
  if (task.written) return { ok: true, value: task.written === "csv" ? ledgerCsv(study) : writeStudyFile(study) };
  if (task.past) {
    const past = task.past.map((edits) => JSON.parse(edits) as Edit[]);
    return { ok: true, value: parseStudy(rewind(study, past)) };
  }
  const held = receive(study);
  const steps = ask(question as QuestionId, held.study, input, held.memo);
  let told = Number.NEGATIVE_INFINITY;
  for (;;) {
    const step = steps.next();
    if (step.done) return { ok: true, value: step.value };
    Atomics.store(stop, LISTENS, 1);
    if (Atomics.load(stop, STOP) === 1) {
      // A search that can end early does so with the best it has.
      const last = steps.next(true);
      return last.done ? { ok: true, value: last.value } : { ok: false, stopped: true };
    }
    const { done, text, best } = step.value;
    const tell = best !== undefined && performance.now() - told > BEST_EVERY;
    if (tell) told = performance.now();
    port.postMessage({ done, text, ...(tell ? { best } : {}) } satisfies Progress);
  }
}

/** Works in a thread. Errors a person caused come back as data. */
export default async function work(task: Task): Promise<Answer> {
  try {
    return await answerOf(task);
  } catch (error) {
    if (error instanceof StudyError) return { ok: false, stopped: false, said: error.said, path: error.path };
    throw error;
  }
}
