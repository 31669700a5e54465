import { fork } from "node:child_process";
import { join } from "node:path";
import { StudyError } from "@/core/study";
import { Problem } from "../problem";
import type { Order, TaskName, Tasks } from "./tasks";

/** Memory of such a process beside what its input takes, in MB. */
const MOST_MEMORY = 1024;
/** Longest that it may take, in milliseconds. */
const LONGEST = 120_000;
/** Processes at once; others wait. */
const AT_ONCE = 2;

/** What comes back of a task. */
export type Reply =
  | { value: unknown }
  | { refused: Pick<StudyError, "said" | "path"> }
  | { problem: Pick<Problem, "said" | "path"> }
  | { failed: { message: string; code: string | undefined } };

// One holder for the process: separate route bundles must share it.
const holder = globalThis as unknown as { trialmoorApart?: { running: number; waiting: (() => void)[] } };
holder.trialmoorApart ??= { running: 0, waiting: [] };
const turns = holder.trialmoorApart;

function replyOf(order: Order): Promise<Reply> {
  return new Promise((resolve, reject) => {
    const child = fork(join(/* turbopackIgnore: true */ process.cwd(), "dist/apart.mjs"), [], {
      execArgv: [`--max-old-space-size=${MOST_MEMORY}`],
      serialization: "advanced",
      stdio: "ignore",
    });
    let late = false;
    const timer = setTimeout(() => {
      late = true;
      child.kill("SIGKILL");
    }, LONGEST);
    child.once("message", (reply) => resolve(reply as Reply));
    child.once("error", reject);
    child.once("exit", () => {
      clearTimeout(timer);
      // After its reply this changes nothing any more.
      reject(
        late
          ? new Problem("takes-too-long", { seconds: LONGEST / 1000, background: false })
          : new Problem("takes-too-much", { megabytes: MOST_MEMORY }),
      );
    });
    child.send(order, (error) => error && reject(error));
  });
}

/**
 * Does a task on what came from outside in a process of its own: what it dies of, and what it holds up, is that
 * process alone.
 * @throws Problem `takes-too-long`, `takes-too-much`, and what the task throws
 */
export async function apart<N extends TaskName>(
  name: N,
  input: Parameters<Tasks[N]>[0],
): Promise<Awaited<ReturnType<Tasks[N]>>> {
  if (turns.running >= AT_ONCE) await new Promise<void>((go) => turns.waiting.push(go));
  turns.running++;
  try {
    const reply = await replyOf({ name, input });
    if ("refused" in reply) throw StudyError.of(reply.refused.said, reply.refused.path);
    if ("problem" in reply) throw Problem.of(reply.problem.said, reply.problem.path);
    if ("failed" in reply) throw Object.assign(new Error(reply.failed.message), { code: reply.failed.code });
    return reply.value as Awaited<ReturnType<Tasks[N]>>;
  } finally {
    turns.running--;
    turns.waiting.shift()?.();
  }
}
