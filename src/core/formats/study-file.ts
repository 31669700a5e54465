import { StudyError } from "../study/error";
import type { Study } from "../study/schema";
import { parseStudy } from "../study/validate";

/** Largest study file that is read, in characters. */
export const MOST_CHARACTERS = 20_000_000;

/**
 * Reads the text of a study file.
 * @throws StudyError for text that is not JSON, is too large, or is not a study this version knows
 */
export function readStudyFile(text: string): Study {
  if (text.length > MOST_CHARACTERS)
    throw new StudyError(
      "too-large",
      `The file holds ${Math.round(text.length / 1e6)} million characters; the most is ${MOST_CHARACTERS / 1e6} million.`,
    );
  let data: unknown;
  try {
    data = JSON.parse(text.replace(/^\uFEFF/, ""));
  } catch {
    throw new StudyError(
      "not-json",
      "This is not a study file: its text is not JSON. Choose a file that ends in .trialmoor.json.",
    );
  }
  return parseStudy(data);
}

/** Writes a study as the text of a study file. */
export const writeStudyFile = (study: Study): string => `${JSON.stringify(study, null, 2)}\n`;
