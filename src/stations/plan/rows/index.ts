import { aliasing } from "./aliasing";
import { chains } from "./chains";
import { df } from "./df";
import { efficiency } from "./efficiency";
import { map } from "./map";
import { points } from "./points";
import { power } from "./power";
import { recipe } from "./recipe";
import { risks } from "./risks";
import type { PlanRow } from "./row";
import { setups } from "./setups";
import { space } from "./space";
import { trade } from "./trade";

/** The rows of the comparison, in the order they stand. */
export const rows: readonly PlanRow[] = [
  map,
  setups,
  df,
  risks,
  power,
  aliasing,
  chains,
  space,
  efficiency,
  points,
  trade,
  recipe,
];
