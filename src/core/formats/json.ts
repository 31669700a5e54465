import type { NotJson } from "../messages/errors";
import { StudyError } from "../study/error";

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

/** Half of a letter that takes two, which no text is written with (a lone surrogate). */
const HALF = /\p{Surrogate}/u;
/** What only a text that holds one of these can be odd by. */
const SUSPECT = /__proto__|\\u/;

/**
 * Refuses names and texts that would be lost, or changed, on their way to the disk and back.
 * @throws StudyError `odd-key`, `odd-text`
 */
function requireKept(data: unknown, path: (string | number)[] = []): void {
  if (typeof data === "string" && HALF.test(data)) throw new StudyError("odd-text", { place: path.join(" → ") }, path);
  if (typeof data !== "object" || data === null) return;
  for (const [key, value] of Object.entries(data)) {
    if (key === "__proto__" || HALF.test(key))
      throw new StudyError("odd-key", { key: key.replace(new RegExp(HALF, "gu"), "\uFFFD") }, path);
    requireKept(value, [...path, Array.isArray(data) ? Number(key) : key]);
  }
}

/**
 * Reads JSON that came from outside.
 * @param what what the text should have been
 * @throws StudyError `not-json`, `too-deep`, `odd-key`, `odd-text`
 */
export function parseJson(text: string, what: NotJson): unknown {
  if (tooDeep(text)) throw new StudyError("too-deep", { most: MOST_DEPTH });
  let data: unknown;
  try {
    data = JSON.parse(text.replace(/^\uFEFF/, ""));
  } catch {
    throw new StudyError("not-json", what);
  }
  if (SUSPECT.test(text)) requireKept(data);
  return data;
}
