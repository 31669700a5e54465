import { type Edit, LISTS, PLAIN, sameData } from "../study/edit";
import type { Study } from "../study/schema";

type Bag = Record<string, unknown>;

/** Bags within members whose cells are cells of their own: a result, a setting, not all results at once. */
const BAGS: Readonly<Record<string, readonly string[]>> = { trials: ["settings", "asRun", "covariates", "results"] };

const plain = (v: unknown): Edit["to"] => (v === undefined ? null : (JSON.parse(JSON.stringify(v)) as Edit["to"]));

/** Cells of one member that differ. */
function* ofMember(path: string[], before: Bag, after: Bag, bags: readonly string[]): Generator<Edit> {
  for (const name of new Set([...Object.keys(before), ...Object.keys(after)])) {
    const [from, to] = [before[name], after[name]];
    if (sameData(from, to)) continue;
    if (bags.includes(name)) yield* ofMember([...path, name], (from ?? {}) as Bag, (to ?? {}) as Bag, []);
    else yield { path: [...path, name], from: plain(from), to: plain(to) };
  }
}

/** How many members two lists have in common at their beginning and, behind it, at their end. */
function shared(before: readonly Bag[], after: readonly Bag[]): [first: number, last: number] {
  const most = Math.min(before.length, after.length);
  let first = 0;
  while (first < most && before[first] === after[first]) first++;
  let last = 0;
  while (last < most - first && before[before.length - 1 - last] === after[after.length - 1 - last]) last++;
  return [first, last];
}

/** Members gone, come, changed and moved, in the order in which they can be made and taken back. */
function* ofList(head: string, allBefore: readonly Bag[], allAfter: readonly Bag[]): Generator<Edit> {
  const key = LISTS[head];
  // One trial of thousands is looked at alone.
  const [first, last] = shared(allBefore, allAfter);
  const before = allBefore.slice(first, allBefore.length - last);
  const after = allAfter.slice(first, allAfter.length - last);
  const was = new Map(before.map((x) => [x[key], x]));
  const is = new Map(after.map((x) => [x[key], x]));
  const gone = before.flatMap((x, at) => (is.has(x[key]) ? [] : [{ x, at }]));
  // From the end, so that each stands where it says when it goes and, taken back, when it comes again.
  for (const { x, at } of gone.reverse())
    yield { path: [head, String(x[key])], from: plain(x), to: null, at: first + at };
  for (const [id, x] of is) {
    const old = was.get(id);
    if (old && old !== x) yield* ofMember([head, String(id)], old, x, BAGS[head] ?? []);
  }
  const order = before.flatMap((x) => (is.has(x[key]) ? [x[key]] : []));
  for (const [at, x] of after.entries())
    if (!was.has(x[key])) {
      order.splice(at, 0, x[key]);
      yield { path: [head, String(x[key])], from: null, to: plain(x), at: first + at };
    }
  if (
    !sameData(
      order,
      after.map((x) => x[key]),
    )
  ) {
    const whole = (middle: readonly unknown[]): Edit["to"] =>
      plain([
        ...allAfter.slice(0, first).map((x) => x[key]),
        ...middle,
        ...allAfter.slice(allAfter.length - last).map((x) => x[key]),
      ]);
    yield { path: [head], from: whole(order), to: whole(after.map((x) => x[key])) };
  }
}

/**
 * The edits that make one state of a study into another, cell by cell, each with what stood there. Taken back in
 * reverse they give the first state again, things in their places.
 */
export function differences(before: Study, after: Study): Edit[] {
  const out: Edit[] = [];
  for (const head of Object.keys(LISTS)) {
    const [a, b] = [before, after].map((s) => (s as unknown as Record<string, Bag[]>)[head]);
    if (a !== b) out.push(...ofList(head, a, b));
  }
  for (const head of PLAIN) {
    const [from, to] = [before, after].map((s) => (s as unknown as Bag)[head]);
    if (!sameData(from, to)) out.push({ path: [head], from: plain(from), to: plain(to) });
  }
  return out;
}
