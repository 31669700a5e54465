import { messageText, STATIONS, type Station, standingText } from "@/core/findings";
import {
  goneKey,
  kindOf,
  locationOf,
  measuredResponses,
  type Names,
  type Study,
  sameData,
  type Trial,
  valueAt,
} from "@/core/study";
import { settingText } from "@/ui/parts/format";

/** One cell of a study as it stood and as it stands. */
export interface CellThen {
  key: string;
  place: string;
  past: string;
  now: string;
  differs: boolean;
}

/** What a station holds, then and now. */
export interface StationThen {
  station: Station;
  cells: CellThen[];
  differing: number;
}

type Bag = Record<string, unknown>;
const MEMBERS: readonly (readonly [list: string, key: string, station: Station])[] = [
  ["responses", "id", "question"],
  ["factors", "id", "question"],
  ["covariates", "id", "question"],
  ["waves", "id", "plan"],
  ["rivals", "id", "plan"],
  ["models", "response", "model"],
];
const CELLS: readonly (readonly [cell: string, station: Station])[] = [
  ["title", "question"],
  ["confidence", "question"],
  ["region", "question"],
  ["setpoint", "setpoint"],
  ["notes", "report"],
  ["report", "report"],
];
/** Of members: what says nothing that a person put there. */
const INNER = new Set(["id", "response", "steps"]);

const membersOf = (study: Study, list: string): Bag[] => (study as unknown as Record<string, Bag[]>)[list];

/** Names of both states: what only one of them holds is called as it was called there. */
const namesOf = (study: Study, other: Study): Names => ({
  study,
  gone: new Map(
    (["factors", "responses", "covariates", "waves"] as const).flatMap((list) =>
      other[list].map((x) => [goneKey(list, x.id), x.name]),
    ),
  ),
});

/** Every cell of the two states but the ledger's, station by station. */
export function cellsThen(past: Study, now: Study): StationThen[] {
  const names = { past: namesOf(past, now), now: namesOf(now, past) };
  const out = new Map<Station, CellThen[]>(STATIONS.map((s) => [s, []]));
  const add = (station: Station, path: string[], was: unknown, is: unknown): void => {
    if ((was ?? null) === null && (is ?? null) === null) return;
    out.get(station)?.push({
      key: path.join("/"),
      place: messageText("locations", locationOf(is === undefined ? names.past : names.now, path)),
      past: was === undefined ? "" : standingText(valueAt(names.past, was, path)),
      now: is === undefined ? "" : standingText(valueAt(names.now, is, path)),
      differs: !sameData(was, is),
    });
  };
  for (const [cell, station] of CELLS)
    add(station, [cell], (past as unknown as Bag)[cell], (now as unknown as Bag)[cell]);
  for (const [list, key, station] of MEMBERS) {
    const [was, is] = [past, now].map((s) => new Map(membersOf(s, list).map((x) => [String(x[key]), x])));
    for (const id of new Set([...was.keys(), ...is.keys()])) {
      const [a, b] = [was.get(id), is.get(id)];
      for (const cell of new Set([...Object.keys(a ?? {}), ...Object.keys(b ?? {})]))
        if (!INNER.has(cell)) add(station, [list, id, cell], a?.[cell], b?.[cell]);
    }
  }
  return [...out].flatMap(([station, cells]) =>
    cells.length === 0 ? [] : [{ station, cells, differing: cells.filter((c) => c.differs).length }],
  );
}

/** A trial of one of the two states. */
export interface TrialThen {
  id: string;
  order: number;
  /** Of both states, or of one alone. */
  in: "both" | "past" | "now";
  cells: { past: string; now: string; differs: boolean }[];
  differs: boolean;
}

export interface LedgerThen {
  columns: { key: string; name: string }[];
  trials: TrialThen[];
  differing: number;
}

/** The ledger of the two states, trial by trial in run order. */
export function ledgerThen(past: Study, now: Study): LedgerThen {
  const either = <T extends { id: string }>(a: readonly T[], b: readonly T[]): T[] => [
    ...b,
    ...a.filter((x) => !b.some((y) => y.id === x.id)),
  ];
  const factors = either(past.factors, now.factors);
  const covariates = either(past.covariates, now.covariates);
  const responses = either(measuredResponses(past), measuredResponses(now));
  const columns: { key: string; name: string; of(t: Trial): string }[] = [
    { key: "state", name: "state", of: (t) => (t.use ? t.state : "left out") },
    ...factors.map((f) => ({
      key: `set ${f.id}`,
      name: f.name,
      of: (t: Trial) => settingText(t.asRun?.[f.id] ?? t.settings[f.id] ?? ""),
    })),
    ...covariates.map((c) => ({
      key: `measured ${c.id}`,
      name: c.name,
      of: (t: Trial) => settingText(t.covariates?.[c.id] ?? ""),
    })),
    ...responses.map((r) => ({
      key: `result ${r.id}`,
      name: r.name,
      of: (t: Trial) => kindOf(r).text(t.results[r.id], r, String),
    })),
    { key: "note", name: "note", of: (t) => t.note },
  ];
  const was = new Map(past.trials.map((t) => [t.id, t]));
  const is = new Map(now.trials.map((t) => [t.id, t]));
  const trials = [...new Set([...was.keys(), ...is.keys()])].map((id): TrialThen => {
    const [a, b] = [was.get(id), is.get(id)];
    const cells = columns.map(({ of }) => {
      const [then, since] = [a ? of(a) : "", b ? of(b) : ""];
      return { past: then, now: since, differs: then !== since };
    });
    const where = a && b ? "both" : a ? "past" : "now";
    return {
      id,
      order: (b ?? a)?.order ?? 0,
      in: where,
      cells,
      differs: where !== "both" || cells.some((c) => c.differs),
    };
  });
  trials.sort((x, y) => x.order - y.order);
  return {
    columns: columns.map(({ key, name }) => ({ key, name })),
    trials,
    differing: trials.filter((t) => t.differs).length,
  };
}
