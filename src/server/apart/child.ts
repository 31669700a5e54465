/** The process in which one task is done; it ends with it. */
import { StudyError } from "@/core/study";
import { Problem } from "../problem";
import type { Reply } from "./index";
import { type Order, tasks } from "./tasks";

const reply = (said: Reply): void => {
  process.send?.(said, () => process.exit(0));
};

process.once("message", async ({ name, input }: Order) => {
  try {
    reply({ value: await tasks[name](input as never) });
  } catch (error) {
    if (error instanceof StudyError) reply({ refused: { said: error.said, path: error.path } });
    else if (error instanceof Problem) reply({ problem: { said: error.said, path: error.path } });
    else
      reply({ failed: { message: String((error as Error).stack ?? error), code: (error as { code?: string }).code } });
  }
});
// Nobody waits for it any more.
process.once("disconnect", () => process.exit(1));
