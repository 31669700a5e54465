"use client";
import { type Remote, wrap } from "comlink";
import type { QuestionAnswer, QuestionId, QuestionInput, Study } from "@/core";
import type { ComputeWorker } from "./compute.worker";

let remote: Remote<ComputeWorker> | undefined;

/**
 * Asks a study for what a station reads off it, in one worker beside the page that all stations share; undefined
 * where the study does not allow an answer.
 */
export async function askBeside<Q extends QuestionId>(
  question: Q,
  study: Study,
  input: QuestionInput<Q>,
): Promise<QuestionAnswer<Q> | undefined> {
  remote ??= wrap<ComputeWorker>(new Worker(new URL("./compute.worker.ts", import.meta.url), { type: "module" }));
  const answer = await remote.ask(question, study, input);
  return answer.state === "done" ? (answer.value as QuestionAnswer<Q>) : undefined;
}
