import type { Message } from "../messages/message";
import type { TypingValues } from "../messages/typed";
import { isNumeric } from "../study/coding";
import { activeFactors } from "../study/roles";
import type { Study, Term } from "../study/schema";
import { messageText } from "../words/answers";

/** Most letters of a term that is typed. */
const MOST_LETTERS = 4;

/** Reads a term typed in the study's letters: AAB is the square of A by B, as A × A × B is. */
export function readTypedTerm(
  study: Study,
  text: string,
): { ok: true; term: Term } | { ok: false; sentence: string; said: Message<TypingValues> } {
  const no = (said: Message<TypingValues>): ReturnType<typeof readTypedTerm> => ({
    ok: false,
    said,
    sentence: messageText("typings", said),
  });
  const active = activeFactors(study);
  const factors = [...active].sort((a, b) => b.letter.length - a.letter.length);
  const term: string[] = [];
  let rest = text.replace(/[\s×*.]/g, "").toUpperCase();
  while (rest) {
    const hit = factors.find((f) => rest.startsWith(f.letter));
    if (!hit) return no({ code: "no-letter", values: { text: rest[0], letters: active.map((f) => f.letter) } });
    term.push(hit.id);
    rest = rest.slice(hit.letter.length);
  }
  if (term.length === 0) return no({ code: "no-letters", values: {} });
  if (term.length > MOST_LETTERS) return no({ code: "many-letters", values: { most: MOST_LETTERS } });
  const twice = active.find((f) => !isNumeric(f) && term.filter((id) => id === f.id).length > 1);
  return twice ? no({ code: "category-squared", values: { factor: twice.name } }) : { ok: true, term };
}
