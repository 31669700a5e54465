import type { FollowUpKind } from "../kind";
import { ascent } from "./ascent";
import { augment } from "./augment";
import { axial } from "./axial";
import { carry } from "./carry";
import { centre } from "./centre";
import { confirm } from "./confirm";
import { foldover } from "./foldover";
import { missingFraction } from "./missing-fraction";
import { repeat } from "./repeat";

/** Every kind of wave that follows. A new one is a file beside these and a line here. */
export const followUps: readonly FollowUpKind[] = [
  foldover,
  missingFraction,
  axial,
  augment,
  centre,
  repeat,
  carry,
  ascent,
  confirm,
];
