import type { DoubtValues } from "../messages/bench";
import type { AnsweredCheck, CheckId } from "../messages/checks";
import type { ErrorValues } from "../messages/errors";
import type { ChangeValues, SpotValues } from "../messages/history";
import type { PlaceValues } from "../messages/places";
import type { ActionId, ReadingValues } from "../messages/readings";
import type { RemarkValues, UnfitValues } from "../messages/remarks";
import { type Said, worded } from "../messages/said";
import type { SuspectValues } from "../messages/suspects";
import type { ColumnValues, RowValues, TypingValues } from "../messages/typed";
import type { RiskValues, WaveNameValues, WhyValues } from "../messages/waves";
import type { WorkbookValues } from "../messages/workbooks";
import { english } from "./english";
import type { Language } from "./language";
import { answeredIn } from "./language";

/** Where what the core says becomes words: the edges call these, in the language of the person. */

/** The question a check asks. */
export const questionOf = (id: CheckId, language: Language = english): string => language.questions[id];

/** What the figure behind a check is called. */
export const statisticOf = (id: CheckId, language: Language = english): string => language.statistics[id];

/** What a check answers, with what must be said of its p. */
export const answerOf = (check: AnsweredCheck, language: Language = english): string => answeredIn(language, check);

/** The sentence of a reading. */
export const sentenceOf = (reading: Said<ReadingValues>, language: Language = english): string =>
  worded(language.readings, reading);

/** What the button of a reading says. */
export const actionOf = (id: ActionId, language: Language = english): string => language.actions[id];

/** Why a wave may follow. */
export const whyOf = (why: Said<WhyValues>, language: Language = english): string => worded(language.whys, why);

/** What a wave that may follow is called. */
export const waveNameOf = (name: Said<WaveNameValues>, language: Language = english): string =>
  worded(language.waveNames, name);

/** What could go wrong with a plan. */
export const riskOf = (risk: Said<RiskValues>, language: Language = english): string => worded(language.risks, risk);

/** What may be behind a confirmation that does not agree. */
export const suspectOf = (suspect: Said<SuspectValues>, language: Language = english): string =>
  worded(language.suspects, suspect);

/** What is refused, and what to do about it. */
export const refusalOf = (said: Said<ErrorValues>, language: Language = english): string =>
  worded(language.errors, said);

/** What is said beside figures. */
export const remarkOf = (remark: Said<RemarkValues>, language: Language = english): string =>
  worded(language.remarks, remark);

/** Why a family or a rig cannot serve a study. */
export const unfitOf = (unfit: Said<UnfitValues>, language: Language = english): string =>
  worded(language.unfits, unfit);

/** What a place breaks of the region. */
export const placeOf = (place: Said<PlaceValues>, language: Language = english): string =>
  worded(language.places, place);

/** Why a result is doubted as it is typed. */
export const doubtText = (doubt: Said<DoubtValues>, language: Language = english): string =>
  worded(language.doubts, doubt);

/** A place in a study. */
export const spotText = (spot: Said<SpotValues>, language: Language = english): string => worded(language.spots, spot);

/** What became of a cell. */
export const changeText = (change: Said<ChangeValues>, language: Language = english): string =>
  worded(language.changes, change);

/** What cannot be read of what was typed. */
export const typingOf = (typing: Said<TypingValues>, language: Language = english): string =>
  worded(language.typings, typing);

/** What is not taken of a row of a sheet. */
export const rowOf = (row: Said<RowValues>, language: Language = english): string => worded(language.rows, row);

/** What is said of a workbook that was read. */
export const workbookOf = (remark: Said<WorkbookValues>, language: Language = english): string =>
  worded(language.workbooks, remark);

/** What is odd about a column of a sheet. */
export const columnOf = (column: Said<ColumnValues>, language: Language = english): string =>
  worded(language.columns, column);
