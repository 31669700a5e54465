import { StudyError } from "../study/error";
import type { Study } from "../study/schema";
import { parseStudy } from "../study/validate";
import { parseJson } from "./json";

/** Largest study file that is read, in characters. */
export const MOST_CHARACTERS = 20_000_000;

/**
 * Reads the text of a study file.
 * @throws StudyError for text that is not JSON, is too large or too deep, or is not a study this version knows
 */
export function readStudyFile(text: string): Study {
  if (text.length > MOST_CHARACTERS)
    throw new StudyError("too-large.file", { characters: text.length, most: MOST_CHARACTERS });
  return parseStudy(parseJson(text, { of: "study-file", name: "" }));
}

/** Writes a study as the text of a study file. */
export const writeStudyFile = (study: Study): string => `${JSON.stringify(study, null, 2)}\n`;
