import { spawn } from "node:child_process";
import { MOST_ANSWER } from "@/core/formats";

/** How one call of a program ended: what it printed, or why there is nothing to read. */
export type Called = { printed: string } | { why: string };

/** Most characters kept of what a program said last. */
const LAST_WORDS = 300;

/** What a program said last, on one line. */
function lastWords(errors: string, printed: string): string {
  const line = [errors, printed].flatMap(
    (t) =>
      t
        .trim()
        .split(/[\r\n]+/)
        .at(-1) || [],
  )[0];
  return line ? `; its last words: ${line.trim().slice(-LAST_WORDS)}` : "";
}

/**
 * Calls a program once, in a shell and in a process group of its own, so that whatever it started ends with it.
 *
 * @param input goes to its standard input
 * @param timeout in milliseconds
 * @param stop ends it early
 */
export function call(
  command: string,
  input: string,
  { cwd, timeout, stop }: { cwd: string; timeout: number; stop: AbortSignal },
): Promise<Called> {
  return new Promise((resolve) => {
    const child = spawn(command, { cwd, shell: true, detached: true, stdio: "pipe" });
    let printed = "";
    let errors = "";
    let ended: string | undefined;
    const end = (why: string): void => {
      ended ??= why;
      try {
        if (child.pid !== undefined) process.kill(-child.pid, "SIGKILL");
      } catch {
        // It ended by itself just now.
      }
    };
    const timer = setTimeout(() => end(`no answer within ${timeout / 1000} s`), timeout);
    const onStop = (): void => end("stopped");
    stop.addEventListener("abort", onStop);
    if (stop.aborted) onStop();
    const done = (called: Called): void => {
      clearTimeout(timer);
      stop.removeEventListener("abort", onStop);
      resolve(called);
    };
    child.stdout.setEncoding("utf8").on("data", (text: string) => {
      printed += text;
      if (printed.length > MOST_ANSWER) end(`it printed more than ${MOST_ANSWER.toLocaleString("en")} characters`);
    });
    child.stderr.setEncoding("utf8").on("data", (text: string) => {
      errors = (errors + text).slice(-4000);
    });
    // A program that does not read its input is free not to.
    child.stdin.on("error", () => undefined);
    child.stdin.end(input);
    child.on("error", (error) => done({ why: `the program cannot be started: ${error.message}` }));
    child.on("close", (code, signal) => {
      if (ended !== undefined) done({ why: `${ended}${lastWords(errors, printed)}` });
      else if (code !== 0)
        done({
          why: `the program ended with ${code === null ? signal : `exit code ${code}`}${lastWords(errors, printed)}`,
        });
      else done({ printed });
    });
  });
}
