import { applyEdits, type Edit } from "./edit";
import { type Study, studySchema } from "./schema";
import { holdAgainst, issueError } from "./shape";
import { complete } from "./validate";

const LISTS = ["factors", "covariates", "responses", "waves", "trials", "models", "rivals"] as const;

/**
 * A study after edits, checked. Only what the edits touched is read anew; all else keeps its identity, so that what
 * was worked out from it can be kept too.
 *
 * @param before a whole study
 * @throws StudyError `edit-conflict`, or what `parseStudy` would say of the result
 */
export function reviseStudy(before: Study, edits: readonly Edit[]): Study {
  const raw = applyEdits(before, edits);
  const fresh = new Map(LISTS.map((head) => [head, touched(raw[head], before[head])]));
  const shape = holdAgainst(studySchema, {
    ...raw,
    ...Object.fromEntries([...fresh].map(([head, f]) => [head, f.items])),
  });
  if (!shape.success) {
    const issue = shape.error.issues[0];
    const [head, i, ...rest] = issue.path;
    const places = fresh.get(head as (typeof LISTS)[number])?.places;
    throw issueError(places && typeof i === "number" ? { ...issue, path: [head, places[i], ...rest] } : issue, raw);
  }
  const whole = { ...shape.data };
  for (const [head, { places }] of fresh) {
    const read: unknown[] = shape.data[head];
    const members: unknown[] = [...raw[head]];
    places.forEach((where, i) => {
      members[where] = read[i];
    });
    Object.assign(whole, { [head]: members });
  }
  if (raw.models === before.models) whole.models = before.models;
  if (raw.rivals === before.rivals) whole.rivals = before.rivals;
  if (raw.region === before.region) whole.region = before.region;
  if (raw.setpoint && raw.setpoint === before.setpoint) whole.setpoint = before.setpoint;
  return complete(whole, before);
}

/** The members of a list that were not in it before, and where they stand. */
function touched(now: readonly unknown[], before: readonly unknown[]): { items: unknown[]; places: number[] } {
  const added = (stays: (x: unknown, i: number) => boolean): number[] =>
    now.flatMap((x, i) => (stays(x, i) ? [] : [i]));
  let places: number[];
  if (now.length === before.length) {
    // Members that stand where they stood, as nearly all do, need no looking up.
    const moved = new Set(before.filter((x, i) => x !== now[i]));
    places = added((x, i) => x === before[i] || moved.has(x));
  } else {
    const present = new Set(before);
    places = added((x) => present.has(x));
  }
  return { items: places.map((i) => now[i]), places };
}
