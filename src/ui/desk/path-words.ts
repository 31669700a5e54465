import type { Study } from "@/core";

const LISTS: Readonly<Record<string, string>> = {
  factors: "Factor",
  responses: "Response",
  covariates: "Measured beside",
  waves: "Wave",
  models: "Model",
  rivals: "Kept plan",
};
const CELLS: Readonly<Record<string, string>> = {
  title: "Title of the study",
  notes: "Notes of the study",
  region: "Region",
  setpoint: "Setpoint",
  report: "What the report adds",
  confidence: "Confidence",
};

/** A cell's place as people say it: "Trial 1, Moisture", never by ids where there is a name. */
export function pathWords(study: Study, path: readonly string[]): string {
  const [head, id, key, more] = path;
  const nameOf = (id: string | undefined): string | undefined =>
    [...study.factors, ...study.responses, ...study.covariates, ...study.waves].find((x) => x.id === id)?.name;
  if (id === undefined) return CELLS[head] ?? `Order of the ${head}`;
  if (head === "trials") {
    const order = study.trials.find((t) => t.id === id)?.order;
    const cell = key === undefined ? "" : `, ${nameOf(more) ?? (key === "asRun" ? "as run" : key)}`;
    return `${order === undefined ? "A trial that is gone" : `Trial ${order}`}${cell}${key === "asRun" && more ? ", as run" : ""}`;
  }
  const name = nameOf(id) ?? id;
  if (head === "models") return `Model of ${name}`;
  return `${key === undefined ? `${LISTS[head] ?? head} ${name}` : `${name}, ${key}`}`;
}

const MOST_WORDS = 120;

/** What stands in a cell as people say it: rows by what they hold, empty cells and inner ids left out. */
export function cellWords(study: Study, value: unknown): string {
  const nameOf = (id: string): string =>
    [...study.factors, ...study.responses, ...study.covariates, ...study.waves].find((x) => x.id === id)?.name ?? id;
  const textOf = (v: unknown): string => {
    if (v === null || v === undefined || v === "") return "nothing";
    if (Array.isArray(v)) return v.map(textOf).join(", ");
    if (typeof v !== "object") return typeof v === "string" ? nameOf(v) : String(v);
    return Object.entries(v)
      .filter(([key, cell]) => key !== "id" && cell !== undefined && cell !== null)
      .map(([key, cell]) => (key === "name" ? String(cell) : `${nameOf(key)} ${textOf(cell)}`))
      .join("; ");
  };
  const all = textOf(value);
  return all.length > MOST_WORDS ? `${all.slice(0, MOST_WORDS)}…` : all;
}
