import * as z from "zod";
import { StudyError } from "./error";
import type { Study } from "./schema";

/** Any plain value. */
export const jsonValue = z.json();

/**
 * One change of one cell of a study, with what stood there before. A path names things by id, so that it means the
 * same whatever else changed: `["factors", "temp", "low"]`, `["trials", "t3", "results", "grease"]`,
 * `["models", "grease"]`, `["title"]`. `null` stands for nothing: from null adds, to null removes.
 */
export const editSchema = z.strictObject({
  path: z.array(z.string().min(1).max(200)).min(1).max(4),
  from: jsonValue,
  to: jsonValue,
  /** Where a thing is put in its list; at the end when left out. */
  at: z.number().int().nonnegative().optional(),
});
/** One change of a study: what stood at a path and what stands there then; null for nothing. */
export type Edit = z.infer<typeof editSchema>;

/** Lists whose members are addressed by id, and the key that holds it. */
export const LISTS: Readonly<Record<string, string>> = {
  factors: "id",
  responses: "id",
  covariates: "id",
  waves: "id",
  trials: "id",
  models: "response",
  rivals: "id",
};
/** The key of a list's members; undefined for what is no list. */
const listKey = (head: string): string | undefined => (Object.hasOwn(LISTS, head) ? LISTS[head] : undefined);
export const PLAIN = ["title", "notes", "confidence", "setupCost", "costs", "setpoint", "region", "report"];

type Bag = Record<string, unknown>;

/** Equality of plain data, keys in any order; a missing key equals null. */
export function sameData(a: unknown, b: unknown): boolean {
  if (a === b || (a ?? null) === (b ?? null)) return true;
  if (typeof a !== "object" || typeof b !== "object" || a === null || b === null) return false;
  if (Array.isArray(a) !== Array.isArray(b)) return false;
  if (Array.isArray(a) && Array.isArray(b)) return a.length === b.length && a.every((v, i) => sameData(v, b[i]));
  const keys = new Set([...Object.keys(a), ...Object.keys(b)]);
  return [...keys].every((k) => sameData((a as Bag)[k], (b as Bag)[k]));
}

/** What a thing itself holds under a name, never what every object answers to. */
const own = (thing: unknown, name: string): unknown =>
  typeof thing === "object" && thing !== null && Object.hasOwn(thing, name) ? (thing as Bag)[name] : undefined;

/** Finds a member of a list by its id. */
type Find = (head: string, id: string) => Bag | undefined;

function cellBy(study: Study, find: Find, path: readonly string[]): unknown {
  const [head, id, ...rest] = path;
  const key = listKey(head);
  if (!key) return own(study, head) ?? null;
  if (id === undefined) return (study as unknown as Record<string, Bag[]>)[head].map((x) => x[key]);
  let value: unknown = find(head, id);
  for (const part of rest) value = own(value, part);
  return value ?? null;
}

/** What stands at a path now; null for nothing. */
export const cellAt = (study: Study, path: readonly string[]): unknown =>
  cellBy(
    study,
    (head, id) => (study as unknown as Record<string, Bag[]>)[head].find((x) => x[LISTS[head]] === id),
    path,
  );

/** Where the members of a list stand, by their ids. */
const placesOf = (list: readonly Bag[], key: string): Map<unknown, number> =>
  new Map(list.map((x, i) => [x[key], i] as const));

function withValue(thing: Bag, path: readonly string[], to: unknown): Bag {
  const [head, ...rest] = path;
  const copy = { ...thing };
  const value = rest.length === 0 ? to : withValue((own(copy, head) as Bag | undefined) ?? {}, rest, to);
  // A bag that its last cell left (as-run settings, covariates) is as if it had never been.
  const emptied = rest.length > 0 && to === null && Object.keys(value as Bag).length === 0;
  if (value === null || value === undefined || emptied) delete copy[head];
  else copy[head] = value;
  return copy;
}

/** Members that are looked for one by one, before an index is made. */
const FEW_LOOKS = 40;

/** A study while it is edited: each list is copied once, at the first edit that touches it. */
class Draft {
  readonly bag: Bag;
  private readonly copied = new Set<string>();
  /** Where members stand, for lists that were looked into often; a study may have thousands of trials. */
  private readonly places = new Map<string, Map<unknown, number>>();
  private looks = 0;

  constructor(study: Study) {
    this.bag = { ...study };
  }

  list(head: string): Bag[] {
    if (!this.copied.has(head)) {
      this.bag[head] = [...(this.bag[head] as Bag[])];
      this.copied.add(head);
    }
    return this.bag[head] as Bag[];
  }

  /** Where a member stands; −1 where there is none. */
  placeOf(head: string, id: unknown): number {
    let places = this.places.get(head);
    if (!places) {
      const list = this.bag[head] as Bag[];
      // An index pays where many are looked for.
      if (this.looks++ < FEW_LOOKS) return list.findIndex((x) => x[LISTS[head]] === id);
      places = placesOf(this.bag[head] as Bag[], LISTS[head]);
      this.places.set(head, places);
    }
    return places.get(id) ?? -1;
  }

  /** What stands at a path now; null for nothing. */
  at(path: readonly string[]): unknown {
    const find: Find = (head, id) => (this.bag[head] as Bag[])[this.placeOf(head, id)];
    return cellBy(this.bag as unknown as Study, find, path);
  }

  /**
   * Changes one cell.
   * @throws StudyError `bad-edit`, `edit-conflict`
   */
  put(edit: Edit): void {
    const { path, from, to } = edit;
    const [head, id, ...rest] = path;
    const key = listKey(head);
    if (path.includes("__proto__") || (!key && !(PLAIN.includes(head) && path.length === 1)))
      throw new StudyError("bad-edit.place", { place: path.join(" → ") }, path);
    if (!sameData(this.at(path), from))
      throw new StudyError("edit-conflict.changed", { place: path.join(" → ") }, path);
    if (!key) {
      if (to === null) delete this.bag[head];
      else this.bag[head] = to;
      return;
    }
    const list = this.list(head);
    if (id === undefined) {
      // The list itself: a new order of the same members.
      const order = to as unknown[];
      if (!Array.isArray(order) || order.length !== list.length || !list.every((x) => order.includes(x[key])))
        throw new StudyError("bad-edit.order", { list: head }, path);
      this.bag[head] = order.map((o) => list[this.placeOf(head, o)]);
      this.places.delete(head);
      return;
    }
    const index = this.placeOf(head, id);
    if (rest.length > 0) {
      if (index < 0) throw new StudyError("edit-conflict.removed", { place: path.join(" → ") }, path);
      list[index] = withValue(list[index], rest, to);
    } else if (to === null) this.remove(head, index);
    else if (index >= 0) {
      list[index] = to as Bag;
      // A member that is put in another's place may bring an id of its own.
      if (list[index][key] !== id) this.places.delete(head);
    } else this.insert(head, to as Bag, edit.at ?? list.length);
  }

  /** Takes a member out; at the end of its list the others keep their places. */
  private remove(head: string, index: number): void {
    if (index < 0) return;
    const list = this.list(head);
    const [gone] = list.splice(index, 1);
    if (index === list.length) this.places.get(head)?.delete(gone[LISTS[head]]);
    else this.places.delete(head);
  }

  /** Puts a member in; at the end of its list the others keep their places. */
  private insert(head: string, member: Bag, at: number): void {
    const list = this.list(head);
    const index = Math.min(at, list.length);
    list.splice(index, 0, member);
    if (index === list.length - 1) this.places.get(head)?.set(member[LISTS[head]], index);
    else this.places.delete(head);
  }
}

/**
 * Applies edits in order. The result is not yet checked as a study.
 * @throws StudyError `edit-conflict` when something else stands where an edit expects its `from`
 */
export function applyEdits(study: Study, edits: readonly Edit[]): Study {
  const draft = new Draft(study);
  for (const edit of edits) draft.put(edit);
  return draft.bag as unknown as Study;
}

/**
 * Takes changes back, the last one first, whatever has become of their cells since. The result is not yet checked as
 * a study.
 *
 * @param changes edits of each change, the last change first
 * @throws StudyError `edit-conflict` where what an edit changed is gone without a trace
 */
export function rewind(study: Study, changes: readonly (readonly Edit[])[]): unknown {
  const draft = new Draft(study);
  for (const edits of changes)
    for (const { path, from, at } of [...edits].reverse()) {
      const now = (draft.at(path) ?? null) as Edit["from"];
      draft.put({ path, from: now, to: from, ...(at === undefined ? {} : { at }) });
    }
  return draft.bag;
}

/** The edits that undo these, given the study they are applied to. */
export function inverseEdits(study: Study, edits: readonly Edit[]): Edit[] {
  const draft = new Draft(study);
  const out: Edit[] = [];
  for (const edit of edits) {
    const [head, id] = edit.path;
    const key = LISTS[head];
    const index = key && edit.path.length === 2 && edit.to === null ? draft.placeOf(head, id) : -1;
    out.unshift({ path: edit.path, from: edit.to, to: edit.from, ...(index >= 0 ? { at: index } : {}) });
    draft.put(edit);
  }
  return out;
}

/** One edit from what stands now to a new value. */
export const edit = (study: Study, path: string[], to: unknown): Edit => ({
  path,
  from: (cellAt(study, path) ?? null) as Edit["from"],
  to: (to ?? null) as Edit["to"],
});

/** The same for many edits of one study: its lists are looked through once. */
export function editsOf(study: Study): (path: string[], to: unknown) => Edit {
  const draft = new Draft(study);
  return (path, to) => ({ path, from: (draft.at(path) ?? null) as Edit["from"], to: (to ?? null) as Edit["to"] });
}

/** Edits that add waves and trials, as an adopted plan or an import does. */
export function additions(before: Study, after: Study): Edit[] {
  const news = (head: "waves" | "trials"): Edit[] => {
    const ids = new Set((before[head] as { id: string }[]).map((x) => x.id));
    return (after[head] as { id: string }[])
      .filter((x) => !ids.has(x.id))
      .map((x) => ({ path: [head, x.id], from: null, to: JSON.parse(JSON.stringify(x)) as Edit["to"] }));
  };
  return [...news("waves"), ...news("trials")];
}
