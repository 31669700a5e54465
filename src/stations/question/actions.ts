import { freshId, type RangeWords, readAim, readGoal, readNumber, readRange, readSheet } from "@/core/formats";
import { type Edit, edit, type Factor, nextLetter, type Response, type Setting, type Study } from "@/core/study";
import type { LeftOpen } from "./asked-aims";

/** Edits behind the Question station: plain functions of the study, so that undo and the server see the same. */

const idsOf = (study: Study): Set<string> =>
  new Set([...study.factors, ...study.responses, ...study.covariates].map((x) => x.id));

const asData = (v: unknown): Edit["to"] => JSON.parse(JSON.stringify(v)) as Edit["to"];

/** A new factor; `held` is what trials already run were set to. */
export function addFactor(
  study: Study,
  name: string,
  range: RangeWords,
  more: { unit?: string; step?: number } = {},
  held?: Setting,
): Edit[] {
  const id = freshId(name, idsOf(study));
  const letter = nextLetter(new Set(study.factors.map((f) => f.letter)));
  const head = { id, letter, name, change: "easy" as const, ...(more.unit ? { unit: more.unit } : {}) };
  const factor: Factor =
    range.kind === "categorical"
      ? { ...head, ...range }
      : range.kind === "discrete"
        ? { ...head, ...range, scale: "linear" }
        : { ...head, ...range, scale: "linear", ...(more.step ? { step: more.step } : {}) };
  const earlier: Edit[] =
    held === undefined
      ? []
      : study.trials.map((t) => ({ path: ["trials", t.id, "settings", id], from: null, to: held }));
  return [{ path: ["factors", id], from: null, to: asData(factor) }, ...earlier];
}

/** The factor with another range, values or levels; what no longer applies falls away. */
export function withRange(factor: Factor, range: RangeWords): Factor {
  const { id, letter, name, unit, change, tolerance, retired, notes } = factor;
  const head = {
    id,
    letter,
    name,
    change,
    ...(unit === undefined ? {} : { unit }),
    ...(retired === undefined ? {} : { retired }),
    ...(notes === undefined ? {} : { notes }),
  };
  if (range.kind === "categorical") return { ...head, ...range };
  const scale = factor.kind === "categorical" ? "linear" : factor.scale;
  const tol = tolerance === undefined ? {} : { tolerance };
  if (range.kind === "discrete") return { ...head, ...tol, ...range, scale };
  const kept = factor.kind === "continuous" ? factor : undefined;
  return {
    ...head,
    ...tol,
    ...range,
    scale,
    ...(kept?.step === undefined ? {} : { step: kept.step }),
    ...(kept?.hardLow === undefined ? {} : { hardLow: kept.hardLow }),
    ...(kept?.hardHigh === undefined ? {} : { hardHigh: kept.hardHigh }),
  };
}

/** Models that name a factor or a covariate, without the terms that do. */
const modelsWithout = (study: Study, id: string): Edit[] =>
  study.models
    .filter((m) =>
      [
        ...m.terms,
        ...(m.rivals ?? []).flat(),
        ...(m.steps ?? []).flatMap((s) => [...s.terms, ...(s.moved ?? [])]),
      ].some((t) => t.includes(id)),
    )
    .map((m) => {
      // The way to the model speaks of what is gone: it begins anew.
      const { rivals, steps: _steps, ...rest } = m;
      const without = (terms: readonly string[][]): string[][] => terms.filter((t) => !t.includes(id));
      return edit(study, ["models", m.response], {
        ...rest,
        terms: without(m.terms),
        ...(rivals ? { rivals: rivals.map(without) } : {}),
      });
    });

/** Removes a factor that no trial needs: from limits, models and setpoint too. */
export function removeFactor(study: Study, id: string): Edit[] {
  const region = {
    limits: study.region.limits.filter((l) => !(id in l.terms)),
    forbidden: study.region.forbidden.filter((c) => !(id in c)),
  };
  return [
    ...(region.limits.length !== study.region.limits.length || region.forbidden.length !== study.region.forbidden.length
      ? [edit(study, ["region"], asData(region))]
      : []),
    ...modelsWithout(study, id),
    ...study.waves.flatMap((w) =>
      w.plan.asked?.some((t) => t.includes(id))
        ? [edit(study, ["waves", w.id, "plan", "asked"], asData(w.plan.asked.filter((t) => !t.includes(id))))]
        : [],
    ),
    ...(study.setpoint ? [edit(study, ["setpoint"], null)] : []),
    ...study.trials
      .filter((t) => t.settings[id] !== undefined)
      .map((t) => edit(study, ["trials", t.id, "settings", id], null)),
    ...study.trials
      .filter((t) => t.asRun?.[id] !== undefined)
      .map((t) => edit(study, ["trials", t.id, "asRun", id], null)),
    edit(study, ["factors", id], null),
  ];
}

/** Moves a row of a list up or down. */
export function moveRow(study: Study, list: "factors" | "responses", id: string, by: -1 | 1): Edit[] {
  const ids = (study[list] as { id: string }[]).map((x) => x.id);
  const index = ids.indexOf(id);
  const to = index + by;
  if (to < 0 || to >= ids.length) return [];
  const next = ids.slice();
  [next[index], next[to]] = [next[to], next[index]];
  return [{ path: [list], from: ids, to: next }];
}

/** A new response, watched until it has a goal. */
export function addResponse(
  study: Study,
  name: string,
  more: Partial<Pick<Response, "unit" | "goal" | "noise" | "smallest">> = {},
): Edit[] {
  const id = freshId(name, idsOf(study));
  const response: Response = {
    id,
    name,
    importance: 1,
    goal: more.goal ?? { aim: "watch" },
    ...(more.unit ? { unit: more.unit } : {}),
    ...(more.noise === undefined ? {} : { noise: more.noise }),
    ...(more.smallest === undefined ? {} : { smallest: more.smallest }),
  };
  return [{ path: ["responses", id], from: null, to: asData(response) }];
}

/** Removes a response with its results and model. */
export const removeResponse = (study: Study, id: string): Edit[] => [
  ...study.models.filter((m) => m.response === id).map((m) => edit(study, ["models", m.response], null)),
  ...study.trials
    .filter((t) => t.results[id] !== undefined)
    .map((t) => edit(study, ["trials", t.id, "results", id], null)),
  edit(study, ["responses", id], null),
];

/** Rows pasted from a spreadsheet: factors as name, unit, range (one cell or low and high), step. */
export function pasteFactors(study: Study, text: string): { edits: Edit[]; problems: string[]; count: number } {
  if (study.trials.length > 0)
    return {
      edits: [],
      problems: [
        "Trials exist already: add factors one by one, so that each can say what earlier trials were held at.",
      ],
      count: 0,
    };
  const problems: string[] = [];
  const edits: Edit[] = [];
  let now = study;
  let count = 0;
  for (const [i, cells] of readSheet(text).rows.entries()) {
    const [name = "", unit = "", a = "", b = "", c = ""] = cells;
    if (name === "" || (i === 0 && /^(name|factor)$/i.test(name))) continue;
    const pair = b !== "" && typeof readNumber(a) === "number" && typeof readNumber(b) === "number";
    const range = readRange(pair ? `${a} to ${b}` : a);
    if (!range.ok) {
      problems.push(`Row ${i + 1} (${name}): ${range.sentence}`);
      continue;
    }
    const step = readNumber(pair ? c : b);
    const added = addFactor(now, name, range.value, {
      unit,
      ...(typeof step === "number" && step > 0 ? { step } : {}),
    });
    edits.push(...added);
    now = { ...now, factors: [...now.factors, added[0].to as unknown as Factor] };
    count++;
  }
  return { edits, problems, count };
}

/**
 * Rows pasted from a spreadsheet: responses as name, unit, aim, limits (one cell or two). A row is kept whatever its
 * aim says; `left` holds what of its aim and limits was understood or typed, and is still to be made a goal.
 */
export function pasteResponses(
  study: Study,
  text: string,
): { edits: Edit[]; problems: string[]; count: number; left: LeftOpen[] } {
  const problems: string[] = [];
  const left: LeftOpen[] = [];
  const edits: Edit[] = [];
  let now = study;
  let count = 0;
  for (const [i, cells] of readSheet(text).rows.entries()) {
    const [name = "", unit = "", aimText = "", ...rest] = cells;
    if (name === "" || (i === 0 && /^(name|response)$/i.test(name))) continue;
    const aim = readAim(aimText);
    // Both limits in one cell, or in two; noise and the smallest change worth finding behind them.
    const apart = typeof readNumber(rest[0] ?? "") === "number" && (rest[1] ?? "") !== "";
    const limits = apart ? `${rest[0]} to ${rest[1]}` : (rest[0] ?? "");
    const sizes: { noise?: number; smallest?: number } = {};
    for (const [k, key] of (["noise", "smallest"] as const).entries()) {
      const cell = rest[(apart ? 2 : 1) + k] ?? "";
      const size = readNumber(cell);
      if (typeof size === "number" && size > 0) sizes[key] = size;
      else if (cell !== "")
        problems.push(
          `Row ${i + 1} (${name}): “${cell}” is no ${key === "noise" ? "noise" : "smallest change"} above 0; type it.`,
        );
    }
    const goal = aim.ok ? readGoal(aim.value, limits) : undefined;
    if (!aim.ok)
      problems.push(`Row ${i + 1} (${name}): ${aim.sentence} The row is kept and watched until its aim is chosen.`);
    else if (goal && !goal.ok)
      problems.push(
        `Row ${i + 1} (${name}): ${limits.trim() === "" ? `its aim, ${aim.value}, has no limits yet; type them.` : `${goal.sentence} It is watched until they are typed.`}`,
      );
    const added = addResponse(now, name, { unit, ...sizes, ...(goal?.ok ? { goal: goal.value } : {}) });
    if (!goal?.ok)
      left.push({
        id: String(added[0].path[1]),
        ...(aim.ok ? { aim: aim.value } : {}),
        ...(limits.trim() === "" ? {} : { limits: limits.trim() }),
      });
    edits.push(...added);
    now = { ...now, responses: [...now.responses, added[0].to as unknown as Response] };
    count++;
  }
  return { edits, problems, count, left };
}

/** Something measured with each trial that is not set. */
export const addCovariate = (study: Study, name: string): Edit[] => {
  const id = freshId(name.trim(), idsOf(study));
  return [{ path: ["covariates", id], from: null, to: { id, name: name.trim() } }];
};

export const renameCovariate = (study: Study, id: string, key: "name" | "unit", text: string): Edit[] => [
  edit(study, ["covariates", id, key], text.trim() === "" ? null : text.trim()),
];

/** Takes a covariate away with what was measured of it and the terms that name it. */
export const removeCovariate = (study: Study, id: string): Edit[] => [
  ...modelsWithout(study, id),
  ...study.trials
    .filter((t) => t.covariates?.[id] !== undefined)
    .map((t) => edit(study, ["trials", t.id, "covariates", id], null)),
  edit(study, ["covariates", id], null),
];
