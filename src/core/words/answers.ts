import { english } from "./english";
import { type CheckId, type CheckValues, type Language, type Said, worded } from "./language";

/** The question a check asks. */
export const questionOf = (id: CheckId, language: Language = english): string => language.questions[id];

/** What the figure behind a check is called. */
export const statisticOf = (id: CheckId, language: Language = english): string => language.statistics[id];

/** What a check answers, with what must be said of its p. */
export const answerOf = (check: Said<CheckValues> & { approximate: boolean }, language: Language = english): string =>
  `${worded(language.checks, check)}${check.approximate ? ` (${language.approximate})` : ""}`;
