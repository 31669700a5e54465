import { StudyError } from "../study/error";
import type { NotJson } from "../words/english/errors";

/** Brackets within brackets that are read; a study has eight. What is deeper would exhaust the stack further on. */
const MOST_DEPTH = 64;

/** Whether brackets outside of strings stand deeper than is read. */
function tooDeep(text: string): boolean {
  let depth = 0;
  let quoted = false;
  for (let i = 0; i < text.length; i++) {
    const c = text.charCodeAt(i);
    if (quoted) {
      if (c === 92) i++;
      else if (c === 34) quoted = false;
    } else if (c === 34) quoted = true;
    else if (c === 91 || c === 123) {
      if (++depth > MOST_DEPTH) return true;
    } else if (c === 93 || c === 125) depth--;
  }
  return false;
}

/**
 * Reads JSON that came from outside.
 * @param what what the text should have been
 * @throws StudyError `not-json`, `too-deep`
 */
export function parseJson(text: string, what: NotJson): unknown {
  if (tooDeep(text)) throw new StudyError("too-deep", { most: MOST_DEPTH });
  try {
    return JSON.parse(text.replace(/^\uFEFF/, ""));
  } catch {
    throw new StudyError("not-json", what);
  }
}
