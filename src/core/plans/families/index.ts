import type { PlanFamily } from "../plan";
import { factorial } from "./factorial";
import { fraction } from "./fraction";

/** Every family on offer. A new one is a file beside these and a line here. */
export const families: readonly PlanFamily[] = [factorial, fraction];
