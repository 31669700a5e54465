import type { Message } from "../messages/message";
import type { RemarkValues } from "../messages/remarks";
import type { Run } from "../plans/plan";
import { StudyError } from "../study/error";
import { activeFactors } from "../study/roles";
import type { Recipe, Settings, Study, Term } from "../study/schema";
import type { TermSetName } from "../terms/candidates";

/** What a next wave is asked for. */
export interface FollowOptions {
  /** The kind of wave, by its id. */
  kind: string;
  /** Ids or letters: turned by a fold-over, moved by axial points, carried on by `carry`. */
  factors?: string[];
  /** Fold-over: run half of it. */
  half?: boolean;
  /** New trials: of an augmentation, a confirmation, a path, copies of a repeat, centre points; base runs carried. */
  trials?: number;
  /** Centre points beside the others. */
  centre?: number;
  terms?: TermSetName | Term[];
  axial?: string | number;
  /** What an augmentation is searched by; D unless said. */
  criterion?: "D" | "A" | "I";
  /** Of what family the active factors are carried on; what suits them unless said. */
  family?: string;
  /** Where a confirmation stands, a path starts, or idle factors are held. */
  at?: Settings;
  /** Trials to repeat; all that count unless said. */
  of?: string[];
  /** Of a path: its points, worked out from a model. */
  path?: readonly Settings[];
  /** Of a path: the response it climbs for and the step of its steepest factor. */
  response?: string;
  step?: number;
  /** Most set-ups of the hard factors, most trials of one, and variance between them over that within. */
  setups?: number;
  setupSize?: number;
  eta?: number;
  seed?: number;
  standardOrder?: boolean;
}

/** Base runs of a next wave and what must be said before it is adopted. */
export interface FollowRuns {
  runs: { settings: Settings; kind: Run["kind"] }[];
  recipe?: Partial<Recipe>;
  cautions?: Message<RemarkValues>[];
  /** Run one after another, as they stand. */
  inOrder?: boolean;
}

/**
 * Factors named by id, letter or name.
 * @throws StudyError `unknown-id`
 */
export function namedFactors(study: Study, names: readonly string[] | undefined): Study["factors"] {
  const factors = activeFactors(study);
  return (names ?? []).map((name) => {
    const found = factors.find(
      (f) => f.id === name || f.letter === name || f.name.toLowerCase() === name.toLowerCase(),
    );
    if (!found)
      throw new StudyError("unknown-id.factor-in-use", { name, factors: factors.map((f) => `${f.letter} ${f.id}`) }, [
        "factors",
      ]);
    return found;
  });
}

/** What is asked of set-ups, as it stands in options and recipes. */
export const setupsWanted = ({
  setups,
  setupSize,
  eta,
}: FollowOptions): Pick<Recipe, "setups" | "setupSize" | "eta"> => ({
  ...(setups === undefined ? {} : { setups }),
  ...(setupSize === undefined ? {} : { setupSize }),
  ...(eta === undefined ? {} : { eta }),
});

/**
 * A number of trials as it was asked for.
 * @throws StudyError `bad-count`
 */
export function countOf(value: number | undefined, fallback: number, most: number, what: string): number {
  const n = value ?? fallback;
  if (!Number.isInteger(n) || n < 1 || n > most)
    throw new StudyError("bad-count.follow", { what, n, most }, ["trials"]);
  return n;
}
