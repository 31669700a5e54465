import { eventCounting } from "../../model/laws/counting";
import { countsInSetups } from "../../model/laws/empirical";
import { poisson } from "../../model/laws/poisson";
import { checkCounted, empiricalResult, gatheredEvents } from "../counted-law";
import type { KindLaw } from "../law";

export const countLaw: KindLaw = {
  gathered: (about, trials) => gatheredEvents("count", about, trials),
  onFitted: (result, about) => empiricalResult("count", result, about),
  lawOf: ({ setups }) => (setups ? countsInSetups : poisson),
  counting: eventCounting,
  check: checkCounted,
};
