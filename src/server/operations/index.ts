import { ofBackups } from "./backups";
import { ofBench } from "./bench";
import { ofComputing } from "./computing";
import { ofHistory } from "./history";
import { ofLeases } from "./leases";
import type { Operation } from "./operation";
import { ofServer } from "./server";
import { ofStudies } from "./studies";

export { type Operation, problemSchema } from "./operation";
export { signInSchema } from "./server";
export { createSchema, listQuery } from "./studies";

/** Every operation. */
export const operations: readonly Operation[] = [
  ...ofServer,
  ...ofBackups,
  ...ofStudies,
  ...ofBench,
  ...ofLeases,
  ...ofHistory,
  ...ofComputing,
];
