import type { ChangeValues, LocationValues, Standing } from "../messages/history";
import type { Message } from "../messages/message";
import { type Edit, LISTS } from "../study/edit";
import type { Study, Term } from "../study/schema";
import { alphabetOf, termKey, termLetters, termName } from "../terms/term";
import { written } from "../words/numbers";

/** What things are called that a study holds, or held before they were removed. */
export interface Names {
  study: Study;
  /** Of what is gone, by list and id. */
  gone?: ReadonlyMap<string, string>;
}

/** How `gone` names what it holds. */
export const goneKey = (list: string, id: string): string => `${list}/${id}`;

type Bag = Record<string, unknown>;
const NAMED = ["factors", "responses", "covariates", "waves"] as const;

function nameOf({ study, gone }: Names, list: string, id: string): string {
  if (list === "trials") {
    const order = study.trials.find((t) => t.id === id)?.order;
    return order === undefined ? (gone?.get(goneKey(list, id)) ?? id) : String(order);
  }
  const within = list === "models" ? "responses" : list;
  const found = (study as unknown as Record<string, { id?: string; name?: string }[]>)[within]?.find(
    (x) => x.id === id,
  );
  return found?.name ?? gone?.get(goneKey(within, id)) ?? id;
}

/** What an id within a cell is called: factors, responses, covariates and waves. */
const calledOf = (names: Names, id: string): string => {
  for (const list of NAMED) {
    const name = nameOf(names, list, id);
    if (name !== id) return name;
  }
  return id;
};

function unitOf({ study }: Names, id: string | undefined): string {
  return [...study.factors, ...study.responses, ...study.covariates].find((x) => x.id === id)?.unit ?? "";
}

/** Where an edit is, as a person would say it. */
export function locationOf(names: Names, path: readonly string[]): Message<LocationValues> {
  const [head, id, key, more] = path;
  if (!(head in LISTS)) return { code: "study", values: { cell: head } };
  if (id === undefined) return { code: "order", values: { list: head } };
  const name = nameOf(names, head, id);
  if (key === undefined) return { code: "thing", values: { list: head, name } };
  if (head === "trials" && more !== undefined)
    return { code: "of-trial", values: { name: calledOf(names, more), trial: name, bag: key } };
  return { code: "cell", values: { list: head, name, key } };
}

const isTerms = (path: readonly string[]): boolean => path[0] === "models" && path[2] === "terms";

/** What stands in a cell: ids as names, terms as letters, inner ids left out. */
export function valueAt(names: Names, value: unknown, path: readonly string[] = []): Standing {
  if (value === null || value === undefined || value === "") return { is: "nothing" };
  if (typeof value === "number") return { is: "number", value };
  if (typeof value === "boolean") return { is: "yes-no", yes: value };
  if (typeof value === "string") {
    // Ids where ids stand: a trial's wave, members of lists; what a person typed stays as typed.
    const text = path[2] === "wave" || path[0] === "@" ? calledOf(names, value) : value;
    return { is: "text", text };
  }
  if (isTerms(path)) {
    const alphabet = alphabetOf(names.study);
    return { is: "list", of: (value as Term[]).map((t) => ({ is: "text", text: termLetters(alphabet, t) })) };
  }
  if (Array.isArray(value)) return { is: "list", of: value.map((v) => valueAt(names, v, ["@"])) };
  if (path[0] === "trials" && path[2] === "results") {
    // Events and what they were counted on, as they are typed.
    const { events, of } = value as Bag;
    if (typeof events === "number" && typeof of === "number")
      return { is: "text", text: `${written(events)}/${written(of)}` };
  }
  return {
    is: "bag",
    of: Object.entries(value as Bag)
      .filter(([key, v]) => key !== "id" && v !== undefined && v !== null && !(Array.isArray(v) && v.length === 0))
      .map(([key, v]) => [calledOf(names, key), valueAt(names, v)]),
  };
}

/** What an edit did to its cell, as words tell it. */
export function changeOf(names: Names, { path, from, to }: Pick<Edit, "path" | "from" | "to">): Message<ChangeValues> {
  const spot = locationOf(names, path);
  if (path.length === 2 && path[0] in LISTS) {
    if (from === null) return { code: "added", values: { spot } };
    if (to === null) return { code: "removed", values: { spot } };
    return { code: "moved", values: { spot } };
  }
  if (path.length === 1 && path[0] in LISTS) return { code: "moved", values: { spot } };
  if (isTerms(path) && from !== null && to !== null) {
    const [was, is] = [from, to].map((v) => new Map((v as Term[]).map((t) => [termKey(t), t])));
    const left = (a: Map<string, Term>, b: Map<string, Term>): string[] =>
      [...a].flatMap(([key, t]) => (b.has(key) ? [] : [termName(alphabetOf(names.study), t)]));
    const [into, out] = [left(is, was), left(was, is)];
    if (into.length + out.length > 0) return { code: "terms-moved", values: { spot, into, out } };
  }
  const values = {
    spot,
    from: valueAt(names, from, path),
    to: valueAt(names, to, path),
    unit:
      path.length === 4
        ? unitOf(names, path[3])
        : ["low", "high", "step", "noise", "smallest"].includes(path[2])
          ? unitOf(names, path[1])
          : "",
  };
  const code = values.from.is === "nothing" ? "entered" : values.to.is === "nothing" ? "cleared" : "changed";
  return { code, values };
}
