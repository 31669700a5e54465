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
  confidence: "Confidence",
};

/** A cell's place as people say it: "Trial 1, Moisture", never by ids where there is a name. */
export function pathWords(study: Study, path: readonly string[]): string {
  const [head, id, key, more] = path;
  const nameOf = (of: string | undefined): string | undefined =>
    [...study.factors, ...study.responses, ...study.covariates, ...study.waves].find((x) => x.id === of)?.name;
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
