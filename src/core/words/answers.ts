import type { AnsweredCheck, CheckId } from "../messages/checks";
import { formatMessage, type Message } from "../messages/message";
import type { ActionId } from "../messages/readings";
import { english } from "./english";
import { answeredIn, type Language, type MessageValues, type MessageWords } from "./language";

/** Where what the core says becomes words: the edges call these, in the language of the person. */

/** The question a check asks. */
export const questionOf = (id: CheckId, language: Language = english): string => language.questions[id];

/** What the figure behind a check is called. */
export const statisticOf = (id: CheckId, language: Language = english): string => language.statistics[id];

/** What a check answers, with what must be said of its p. */
export const answerOf = (check: AnsweredCheck, language: Language = english): string => answeredIn(language, check);

/** What the button of a reading says. */
export const actionOf = (id: ActionId, language: Language = english): string => language.actions[id];

/**
 * The sentence of a message.
 * @param kind the table of words that it belongs to
 */
export const messageText = <K extends keyof MessageValues>(
  kind: K,
  message: Message<MessageValues[K]>,
  language: MessageWords = english,
): string => formatMessage(language[kind], message);
