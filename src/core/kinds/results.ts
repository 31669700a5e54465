import { count } from "./count/result";
import type { HowMeasured, ResultKind } from "./result";
import { share } from "./share/result";
import { value } from "./value/result";

/** All kinds of response, the usual one first: a response that names none is of that. */
export const RESULT_KINDS: readonly ResultKind[] = [value, share, count];

/** How the kind of a response is found among some. */
export const kindAmong =
  (kinds: readonly ResultKind[]) =>
  ({ measured }: Pick<HowMeasured, "measured">): ResultKind =>
    kinds.find((k) => k.id === measured) ?? kinds[0];

/** The kind of a response. */
export const kindOf = kindAmong(RESULT_KINDS);
