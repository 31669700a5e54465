import pino from "pino";

const logger = pino({
  name: "trialmoor",
  level: process.env.LOG_LEVEL ?? (process.env.NODE_ENV === "test" ? "silent" : "info"),
});

/** What is known of something that was thrown, whatever it is: one that came from a thread may be no `Error` here. */
export function faultOf(error: unknown): { message: string; stack?: string; code?: unknown } {
  if (typeof error !== "object" || error === null) return { message: String(error) };
  const { message, stack, code } = error as { message?: unknown; stack?: unknown; code?: unknown };
  return {
    message: typeof message === "string" && message !== "" ? message : String(error),
    ...(typeof stack === "string" ? { stack } : {}),
    ...(code === undefined ? {} : { code }),
  };
}

export const log = {
  warn: (what: object, sentence: string): void => logger.warn(what, sentence),
  /** A fault is always told with its message and where it arose. */
  error(error: unknown): void {
    const fault = faultOf(error);
    logger.error({ err: fault }, fault.message);
  },
};
