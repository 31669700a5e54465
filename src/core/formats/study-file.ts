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
    throw new StudyError(
      "too-large",
      `The file holds ${Math.round(text.length / 1e6)} million characters; the most is ${MOST_CHARACTERS / 1e6} million.`,
    );
  return parseStudy(
    parseJson(text, "This is not a study file: its text is not JSON. Choose a file that ends in .trialmoor.json."),
  );
}

/** Writes a study as the text of a study file. */
export const writeStudyFile = (study: Study): string => `${JSON.stringify(study, null, 2)}\n`;
