import type { PlanFamily } from "../plan";
import { array } from "./array";
import { boxBehnken } from "./box-behnken";
import { composite } from "./composite";
import { definitive } from "./definitive";
import { factorial } from "./factorial";
import { fraction } from "./fraction";
import { leastAliasing } from "./least-aliasing";
import { optimal } from "./optimal";
import { plackettBurman } from "./plackett-burman";

/** Every family on offer. A new one is a file beside these and a line here. */
export const families: readonly PlanFamily[] = [
  factorial,
  fraction,
  plackettBurman,
  composite,
  boxBehnken,
  definitive,
  array,
  optimal,
  leastAliasing,
];
