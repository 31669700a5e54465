"use client";
import { transfer } from "comlink";
import type { QuestionAnswer, QuestionId, QuestionInput, StudyView } from "@/core/questions";
import type { WorkbookAnswer } from "./compute.worker";
import { computeThread } from "./compute-thread";

/** One worker beside the page that all stations share. */
const beside = computeThread();

/** Reads a workbook in the worker beside the page. */
export const workbookBeside = (bytes: Uint8Array): Promise<WorkbookAnswer> =>
  beside.put((worker) => worker.workbook(transfer(bytes, [bytes.buffer])));

/**
 * Asks a study for what a station reads off it, in one worker beside the page that all stations share; undefined
 * where the study does not allow an answer.
 */
export async function askSharedWorker<Q extends QuestionId>(
  question: Q,
  view: StudyView,
  input: QuestionInput<Q>,
): Promise<QuestionAnswer<Q> | undefined> {
  const answer = await beside.put((worker) => worker.ask(question, view.study, view.found(), input));
  return answer.state === "done" ? (answer.value as QuestionAnswer<Q>) : undefined;
}
