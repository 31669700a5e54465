import { closeSync, openSync, readFileSync, rmSync, statSync, writeSync } from "node:fs";
import { counted } from "@/core/findings";
import { askedOf, type Outcome, outcomeEdits, readAnswer, readStudyFile, writeStudyFile } from "@/core/formats";
import { waiting } from "@/core/operator";
import { reviseStudy, type Study, StudyError, type Trial } from "@/core/study";
import { call } from "./call";
import { locate, readText, writeOut } from "./input";
import { RunLog } from "./run-log";

/** How trials are run through a program. */
export interface RunOptions {
  program: string;
  atOnce: number;
  /** Seconds. */
  timeout: number;
  tries: number;
  out?: string | undefined;
}

/** What a run did. */
export interface RunReport {
  ran: { trial: string; order: number }[];
  failed: { trial: string; order: number; why: string }[];
  /** Outcomes of an earlier run, cut short, that were taken from its log. */
  restored: number;
  left: number;
  stopped: boolean;
}

/** Between two writings of the study file, in milliseconds; longer where one takes long. */
const WRITES = 1000;

/** A file that says who is at work here; one whose process is gone is taken over. */
function hold(path: string, file: string): () => void {
  try {
    const handle = openSync(path, "wx");
    writeSync(handle, String(process.pid));
    closeSync(handle);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== "EEXIST")
      throw new StudyError("cannot-write", { file: path }, [path]);
    const pid = Number(readFileSync(path, "utf8"));
    if (Number.isInteger(pid) && pid > 0 && alive(pid)) throw new StudyError("run-held", { file, pid }, [file]);
    rmSync(path, { force: true });
    return hold(path, file);
  }
  return () => rmSync(path, { force: true });
}

function alive(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === "EPERM";
  }
}

/** The study file while trials run: what others change in it meanwhile stays. */
class StudyOnDisk {
  private seen: number | undefined;
  study: Study;

  /** @param to where the study is written; what stands there already is gone on with */
  constructor(
    from: string,
    private readonly to: string,
  ) {
    this.seen = this.changed();
    this.study = readStudyFile(readText(this.seen === undefined ? from : to));
  }

  private changed(): number | undefined {
    try {
      return statSync(locate(this.to)).mtimeMs;
    } catch {
      return undefined;
    }
  }

  /** Takes outcomes into the study as it stands on disk now. */
  take(outcomes: readonly Outcome[]): void {
    const now = this.changed();
    if (this.seen !== undefined && now !== this.seen) this.study = readStudyFile(readText(this.to));
    const edits = outcomeEdits(this.study, outcomes);
    if (edits.length > 0) this.study = reviseStudy(this.study, edits);
    writeOut(writeStudyFile(this.study), this.to);
    this.seen = this.changed();
  }
}

/** What came of one trial: its first answer that can be read, else why the last try failed. */
async function runOne(
  study: Study,
  trial: Trial,
  options: RunOptions,
  log: RunLog,
  stop: AbortSignal,
): Promise<Outcome | undefined> {
  const input = `${JSON.stringify(askedOf(study, trial))}\n`;
  const { program, timeout, tries } = options;
  for (let attempt = 1; ; attempt++) {
    const begun = performance.now();
    const called = await call(program, input, {
      cwd: process.env.INIT_CWD ?? process.cwd(),
      timeout: timeout * 1000,
      stop,
    });
    // A trial that was cut off by the person waits on.
    if (stop.aborted) return undefined;
    const outcome = read(study, trial, called);
    const again = "why" in outcome && attempt < tries;
    log.add(
      {
        at: new Date().toISOString(),
        order: trial.order,
        try: attempt,
        again,
        took: Math.round(performance.now() - begun),
      },
      outcome,
    );
    if (!again) return outcome;
  }
}

function read(study: Study, trial: Trial, called: Awaited<ReturnType<typeof call>>): Outcome {
  if ("why" in called) return { trial: trial.id, why: called.why };
  try {
    return { trial: trial.id, answer: readAnswer(study, called.printed) };
  } catch (error) {
    if (!(error instanceof StudyError)) throw error;
    return { trial: trial.id, why: error.message };
  }
}

/**
 * Runs each waiting trial through a program, as many at once as asked. Outcomes go to the log as they come and into
 * the study file once a second and at the end; a run that was cut short goes on from both.
 *
 * @param tell hears of each trial that ended
 * @param stop ends it: trials under way wait on
 * @throws StudyError `no-file`, `run-held` where another run is at this study
 */
export async function runTrials(
  path: string,
  options: RunOptions,
  tell: (line: string) => void,
  stop: AbortSignal,
): Promise<RunReport> {
  const target = options.out ?? path;
  const disk = new StudyOnDisk(path, target);
  const letGo = hold(`${locate(target)}.run.lock`, target);
  try {
    const log = new RunLog(`${locate(target)}.run.jsonl`);
    const restored = log.unwritten().filter((o) => disk.study.trials.some((t) => t.id === o.trial));
    if (restored.length > 0) disk.take(restored);
    log.written();
    const queue = waiting(disk.study);
    const total = queue.length;
    const report: RunReport = { ran: [], failed: [], restored: restored.length, left: 0, stopped: false };
    let pending: Outcome[] = [];
    let writtenAt = performance.now();
    let pause = WRITES;
    const write = (): void => {
      if (pending.length === 0) return;
      const begun = performance.now();
      disk.take(pending);
      pending = [];
      log.written();
      writtenAt = performance.now();
      // At most a tenth of the time goes into writing a study of thousands of trials.
      pause = Math.max(WRITES, 9 * (writtenAt - begun));
    };
    const begun = performance.now();
    const worker = async (): Promise<void> => {
      for (let trial = queue.shift(); trial && !stop.aborted; trial = queue.shift()) {
        const outcome = await runOne(disk.study, trial, options, log, stop);
        if (!outcome) return;
        const { order } = trial;
        if ("why" in outcome) report.failed.push({ trial: trial.id, order, why: outcome.why });
        else report.ran.push({ trial: trial.id, order });
        pending.push(outcome);
        const done = report.ran.length + report.failed.length;
        const seconds = (performance.now() - begun) / 1000;
        tell(
          `trial ${order} ${"why" in outcome ? `failed: ${outcome.why}` : "done"} (${done} of ${total}, about ${Math.round((seconds / done) * (total - done))} s left)`,
        );
        if (performance.now() - writtenAt >= pause) write();
      }
    };
    await Promise.all(Array.from({ length: Math.min(options.atOnce, Math.max(1, total)) }, worker));
    write();
    return { ...report, left: waiting(disk.study).length, stopped: stop.aborted };
  } finally {
    letGo();
  }
}

/** A report in words. */
export const reportText = ({ ran, failed, restored, left, stopped }: RunReport): string =>
  [
    ...(restored > 0 ? [`${counted(restored, "trial")} of a run that was cut short taken from its log`] : []),
    `${counted(ran.length, "trial")} run${failed.length > 0 ? `, ${failed.length} failed` : ""}${left > 0 ? `, ${left} left` : ""}${stopped ? ": stopped" : ""}`,
    ...failed.map((f) => `trial ${f.order}: ${f.why}`),
  ].join("\n");
