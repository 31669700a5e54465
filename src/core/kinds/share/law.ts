import { binomial } from "../../model/laws/binomial";
import { shareCounting } from "../../model/laws/counting";
import { sharesInSetups } from "../../model/laws/empirical";
import { StudyError } from "../../study/error";
import { checkCounted, empiricalResult, gatheredEvents } from "../counted-law";
import type { KindLaw } from "../law";

export const shareLaw: KindLaw = {
  gathered: (about, trials) => gatheredEvents("share", about, trials),
  onFitted: (result, about) => empiricalResult("share", result, about),
  lawOf: ({ setups }) => (setups ? sharesInSetups : binomial),
  counting: shareCounting,
  check(about, data) {
    checkCounted(about, data);
    if (data.counted?.events.every((k, i) => k === data.counted?.of[i]))
      throw new StudyError("counted-all", { response: about.name }, ["responses", about.id]);
  },
};
