"use client";
import { type Remote, transfer, wrap } from "comlink";
import type { QuestionAnswer, QuestionId, QuestionInput, Study } from "@/core";
import type { ComputeWorker, WorkbookAnswer } from "./compute.worker";

let remote: Remote<ComputeWorker> | undefined;

function beside(): Remote<ComputeWorker> {
  remote ??= wrap<ComputeWorker>(new Worker(new URL("./compute.worker.ts", import.meta.url), { type: "module" }));
  return remote;
}

/** Reads a workbook in the worker beside the page. */
export const workbookBeside = (bytes: Uint8Array): Promise<WorkbookAnswer> =>
  beside().workbook(transfer(bytes, [bytes.buffer]));

/**
 * Asks a study for what a station reads off it, in one worker beside the page that all stations share; undefined
 * where the study does not allow an answer.
 */
export async function askBeside<Q extends QuestionId>(
  question: Q,
  study: Study,
  input: QuestionInput<Q>,
): Promise<QuestionAnswer<Q> | undefined> {
  const answer = await beside().ask(question, study, input);
  return answer.state === "done" ? (answer.value as QuestionAnswer<Q>) : undefined;
}
