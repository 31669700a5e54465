import { appendFileSync, existsSync, readFileSync } from "node:fs";
import * as z from "zod";
import { type Outcome, programAnswer } from "@/core/formats";

/** A line of the log: what came of one try, or that all before stands in the study file. */
const line = z.union([
  z.looseObject({ trial: z.string(), answer: programAnswer }),
  z.looseObject({ trial: z.string(), why: z.string() }),
  z.looseObject({ written: z.literal(true) }),
]);

/** One try of a trial, as the log keeps it. */
export interface Tried {
  at: string;
  order: number;
  try: number;
  /** Whether another try follows. */
  again: boolean;
  /** Milliseconds that the program took. */
  took: number;
}

/** The log beside a study file: each outcome as it comes, so that none is lost before the study file is written. */
export class RunLog {
  constructor(readonly path: string) {}

  /**
   * Outcomes that a run which was cut short had not yet written into its study file. A last line that was torn is as
   * if it had never been begun.
   */
  unwritten(): Outcome[] {
    if (!existsSync(this.path)) return [];
    let out: Outcome[] = [];
    for (const text of readFileSync(this.path, "utf8").split("\n")) {
      let read: ReturnType<typeof line.safeParse>;
      try {
        read = line.safeParse(JSON.parse(text));
      } catch {
        continue;
      }
      if (!read.success) continue;
      if ("written" in read.data) out = [];
      else if (read.data.again !== true) out.push(read.data as Outcome);
    }
    return out;
  }

  add(tried: Tried, outcome: Outcome): void {
    this.write({ ...tried, ...outcome });
  }

  /** From here on a run that begins anew has nothing to take from the lines before. */
  written(): void {
    this.write({ written: true });
  }

  private write(value: object): void {
    // On a line of its own, also behind one that was torn.
    appendFileSync(this.path, `\n${JSON.stringify(value)}`);
  }
}
