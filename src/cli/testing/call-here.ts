import { vi } from "vitest";
import { main } from "../main";

/** How a call of the command ended, and what it wrote. */
export interface Outcome {
  code: number | null;
  out: string;
  err: string;
}

/** Calls the command in this process, which costs no start. */
export async function callHere(args: readonly string[]): Promise<Outcome> {
  const outcome = { code: 0, out: "", err: "" };
  const hear = (stream: NodeJS.WriteStream, into: "out" | "err") =>
    vi.spyOn(stream, "write").mockImplementation((chunk) => {
      outcome[into] += String(chunk);
      return true;
    });
  const heard = [hear(process.stdout, "out"), hear(process.stderr, "err")];
  try {
    await main([process.execPath, "headless", ...args]);
    outcome.code = Number(process.exitCode ?? 0);
  } finally {
    process.exitCode = undefined;
    for (const h of heard) h.mockRestore();
  }
  return outcome;
}
