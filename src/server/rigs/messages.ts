import * as z from "zod";
import { programAnswer } from "@/core/formats";

/** Most bytes of a message that is looked at. */
export const MOST_MESSAGE = 1_000_000;

/** What a rig says of itself; its broker says “gone” for one that drops, by its will. */
export const stateMessage = z.object({
  state: z.enum(["ready", "running", "trouble", "gone"]),
  name: z.string().trim().min(1).max(60).optional(),
  /** Of the trial that it runs. */
  lease: z.string().max(64).optional(),
  says: z.string().max(400).optional(),
});

/** What a rig is to do; `stop` gives up the trial that it runs. */
export interface WorkMessage {
  study: string;
  state: "run" | "pause" | "stop";
}

/** What came of a trial. The lease may stand in version 5's correlation data instead. */
export const resultMessage = z.strictObject({
  lease: z.string().max(64).optional(),
  ...programAnswer.partial({ results: true }).shape,
  failed: z.string().max(4000).optional(),
});

/** What became of a result: taken, or why not. A rig sends a result again until it hears this. */
export interface AnswerMessage {
  lease: string;
  taken: boolean;
  code?: string;
  detail?: string;
}

/** Where what is said, below the prefix of the settings. */
export const topicsOf = (prefix: string) => ({
  state: (rig: string) => `${prefix}/rigs/${rig}/state`,
  work: (rig: string) => `${prefix}/rigs/${rig}/work`,
  trial: (study: string) => `${prefix}/${study}/trial`,
  result: (study: string) => `${prefix}/${study}/result`,
  answer: (study: string) => `${prefix}/${study}/answer`,
});
