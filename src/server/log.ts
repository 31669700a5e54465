import pino from "pino";

export const log = pino({
  name: "trialmoor",
  level: process.env.LOG_LEVEL ?? (process.env.NODE_ENV === "test" ? "silent" : "info"),
});
