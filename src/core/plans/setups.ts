import { logDeterminant } from "../numerics/matrices";
import type { Random } from "../numerics/random";
import { isNumeric } from "../study/coding";
import { StudyError } from "../study/error";
import { hardFactors } from "../study/roles";
import type { Settings, Study, Term } from "../study/schema";
import { encoder } from "../terms/model-matrix";
import type { Run } from "./plan";

/** Degrees of freedom left between set-ups, where nobody says how many set-ups there are to be. */
const LEFT_BETWEEN = 3;

/** How a plan's trials are to be put into set-ups. */
export interface SetupsWanted {
  /** Most set-ups in all. */
  most: number;
  /** Nobody has said how many: where the plan needs more, it has more. */
  open: boolean;
  /** Most trials of one set-up. */
  size: number;
  /** Variance between set-ups over that within. */
  eta: number;
  /** What the trials are to tell: sharing them out keeps it sharp. */
  terms: readonly Term[];
}

/** The settings of the hard factors, as one word. */
export const hardKey = (study: Study, settings: Settings): string =>
  hardFactors(study)
    .map((f) => String(settings[f.id]))
    .join("|");

/** Columns of a model that only set-ups can tell: those of hard factors alone, the constant among them. */
export function betweenColumns(study: Study, terms: readonly Term[]): number {
  const hard = new Set(hardFactors(study).map((f) => f.id));
  const of = terms.filter((t) => t.length > 0 && t.every((id) => hard.has(id)));
  return encoder(study, of).columns.length;
}

/**
 * Set-ups that a plan has where nobody says: enough to leave an error between them, a power of two where hard factors
 * have two levels each, so that regular plans can be split evenly.
 */
export function suggestedSetups(study: Study, terms: readonly Term[]): number {
  const enough = betweenColumns(study, terms) + LEFT_BETWEEN;
  const bends = terms.some((t) => new Set(t).size < t.length && hardFactors(study).some((f) => t.includes(f.id)));
  return bends ? enough : 2 ** Math.ceil(Math.log2(enough));
}

/** Runs in as many groups as even as can be, in their order. */
function dealt<T>(items: readonly T[], groups: number): T[][] {
  const out: T[][] = Array.from({ length: groups }, () => []);
  items.forEach((item, i) => {
    out[i % groups].push(item);
  });
  return out;
}

/**
 * Puts runs into set-ups: those a family has set apart as they are, the others with those of equal hard settings, in
 * as many set-ups as are left, shared out so that |X′V⁻¹X| of the terms is large.
 * @throws StudyError `too-few-setups`
 */
export function intoSetups(study: Study, runs: readonly Run[], wanted: SetupsWanted, random: Random): Run[] {
  const sizes = new Map<number | undefined, number>();
  for (const r of runs) sizes.set(r.setup, (sizes.get(r.setup) ?? 0) + 1);
  sizes.delete(undefined);
  // What a family set apart stands, unless its set-ups hold more than may be.
  const kept = [...sizes.values()].every((n) => n <= wanted.size);
  const own = kept ? runs.filter((r) => r.setup !== undefined) : [];
  const free = kept ? runs.filter((r) => r.setup === undefined) : runs;
  let used = new Set(own.map((r) => r.setup)).size;
  const numeric = hardFactors(study).some(isNumeric);
  const out: Run[] = [...own];
  const rest: Run[] = [];
  for (const run of free) {
    // Where hard factors are categories, a centre point stands at a setting that set-ups have already.
    const homes =
      own.length === 0 || numeric
        ? []
        : [...byKey(study, out)].filter(([key]) => key.startsWith(`${run.block}|${hardKey(study, run.settings)}|`));
    const home = homes.map(([, members]) => members).sort((a, b) => a.length - b.length)[0];
    if (home && home.length < wanted.size) out.push({ ...run, setup: home[0].setup as number });
    else rest.push(run);
  }
  const groups = new Map<string, Run[]>();
  for (const run of rest) {
    const key = `${run.block}|${hardKey(study, run.settings)}`;
    groups.set(key, [...(groups.get(key) ?? []), run]);
  }
  // Set-ups that a family made say how large one is meant to be: centre points beside them keep to that.
  const usual = own.length === 0 ? wanted.size : Math.min(wanted.size, Math.ceil(own.length / Math.max(1, used)));
  const full = wanted.open ? usual : wanted.size;
  const counts = new Map([...groups].map(([key, { length }]) => [key, Math.max(1, Math.ceil(length / full))]));
  const least = used + [...counts.values()].reduce((t, c) => t + c, 0);
  if (least > wanted.most && !wanted.open)
    throw new StudyError(
      "too-few-setups",
      { asked: wanted.most, least, size: wanted.size === Number.POSITIVE_INFINITY ? null : wanted.size },
      ["setups"],
    );
  for (let spare = wanted.most - least; spare > 0; spare--) {
    let fullest: string | undefined;
    let most = own.length === 0 ? 1 : usual;
    for (const [key, members] of groups) {
      const load = members.length / (counts.get(key) as number);
      if (load > most + 1e-9) {
        most = load;
        fullest = key;
      }
    }
    if (fullest === undefined) break;
    counts.set(fullest, (counts.get(fullest) as number) + 1);
  }
  const made: Run[] = [];
  for (const [key, members] of groups)
    for (const members2 of dealt(random.shuffled(members), counts.get(key) as number)) {
      for (const run of members2) made.push({ ...run, setup: used });
      used++;
    }
  return [...out, ...sharedOut(study, out, made, wanted)];
}

function byKey(study: Study, runs: readonly Run[]): Map<string, Run[]> {
  const out = new Map<string, Run[]>();
  for (const run of runs) {
    const key = `${run.block}|${hardKey(study, run.settings)}|${run.setup}`;
    out.set(key, [...(out.get(key) ?? []), run]);
  }
  return out;
}

/** Products that sharing out may cost; beyond, trials stay where chance has put them. */
const MOST_WORK = 4e8;
const PASSES = 8;

/**
 * Trades trials between set-ups of the same hard settings while |X′V⁻¹X| grows. What trials tell together stays; which
 * of it stands between set-ups is what changes.
 */
function sharedOut(
  study: Study,
  fixed: readonly Run[],
  runs: readonly Run[],
  { eta, terms }: Pick<SetupsWanted, "eta" | "terms">,
): Run[] {
  const encoded = encoder(study, terms, "orthonormal");
  const p = encoded.columns.length;
  const out = [...runs];
  const all = [...fixed, ...runs];
  const key = all.map((r) => `${r.block}|${hardKey(study, r.settings)}`);
  const of = all.map((r) => r.setup as number);
  const pairs: [number, number][] = [];
  for (let i = fixed.length; i < all.length; i++)
    for (let j = i + 1; j < all.length; j++) if (key[i] === key[j] && of[i] !== of[j]) pairs.push([i, j]);
  const setups = new Set(of).size;
  if (pairs.length === 0 || pairs.length * PASSES * (p ** 3 / 6 + (setups * p * p) / 2) > MOST_WORK) return out;
  const x = all.map((r) => {
    const row = new Float64Array(p);
    encoded.row(r.settings, row);
    return row;
  });
  const size = new Map<number, number>();
  for (const s of of) size.set(s, (size.get(s) ?? 0) + 1);
  const totals = new Map<number, Float64Array>();
  const m = new Float64Array(p * p);
  x.forEach((row, i) => {
    const t = totals.get(of[i]) ?? new Float64Array(p);
    for (let a = 0; a < p; a++) {
      t[a] += row[a];
      for (let b = 0; b <= a; b++) m[a * p + b] += row[a] * row[b];
    }
    totals.set(of[i], t);
  });
  const shrink = (s: number): number => eta / (1 + eta * (size.get(s) as number));
  // A touch of ridge: plans that cannot tell all of the terms are shared out by what they can.
  for (let a = 0; a < p; a++) m[a * p + a] += 1e-6 * x.length;
  const work = new Float64Array(p * p);
  const worth = (): number => {
    work.set(m);
    for (const [s, t] of totals) {
      const c = shrink(s);
      for (let a = 0; a < p; a++) for (let b = 0; b <= a; b++) work[a * p + b] -= c * t[a] * t[b];
    }
    return logDeterminant(work, p);
  };
  const move = (i: number, from: number, to: number): void => {
    const a = totals.get(from) as Float64Array;
    const b = totals.get(to) as Float64Array;
    for (let c = 0; c < p; c++) {
      a[c] -= x[i][c];
      b[c] += x[i][c];
    }
  };
  let best = worth();
  for (let pass = 0; pass < PASSES; pass++) {
    let moved = false;
    for (let i = fixed.length; i < all.length; i++)
      for (let j = i + 1; j < all.length; j++) {
        if (key[i] !== key[j] || of[i] === of[j]) continue;
        const [from, to] = [of[i], of[j]];
        move(i, from, to);
        move(j, to, from);
        const value = worth();
        if (value > best + 1e-9) {
          best = value;
          of[i] = to;
          of[j] = from;
          moved = true;
        } else {
          move(i, to, from);
          move(j, from, to);
        }
      }
    if (!moved) break;
  }
  return out.map((r, i) => ({ ...r, setup: of[fixed.length + i] }));
}
