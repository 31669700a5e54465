import { KIND_FIELDS } from "../kinds/result";
import { kindOf } from "../kinds/results";
import { StudyError } from "./error";
import { faultOfResult } from "./measured";
import { hardFactors, isActive } from "./roles";
import {
  type Factor,
  FORMAT,
  type Response,
  type Result,
  type Setting,
  type Settings,
  type Study,
  studySchema,
  type Trial,
  VERSION,
} from "./schema";
import { holdAgainst, issueError, pathText, quoted } from "./shape";

type Path = (string | number)[];

/** Letters A, B, … without I, then A2, B2, … */
export function nextLetter(taken: ReadonlySet<string>): string {
  const alphabet = "ABCDEFGHJKLMNOPQRSTUVWXYZ";
  for (let round = 1; ; round++)
    for (const letter of alphabet) {
      const candidate = round === 1 ? letter : `${letter}${round}`;
      if (!taken.has(candidate)) return candidate;
    }
}

/**
 * Refuses a second thing of the same name.
 * @throws StudyError `duplicate`
 */
function unique(items: readonly { value: string; path: Path }[], what: string): void {
  const seen = new Map<string, Path>();
  for (const { value, path } of items) {
    const key = value.toLowerCase();
    if (seen.has(key)) throw new StudyError("duplicate.value", { what, value }, path);
    seen.set(key, path);
  }
}

const finite = (value: number, path: Path): void => {
  if (!Number.isFinite(value) || Math.abs(value) > 1e15)
    throw new StudyError("absurd-number", { place: pathText(path) }, path);
};

/**
 * Ranges, steps, hard limits and levels of a factor in themselves.
 * @throws StudyError by what is wrong, such as `range`
 */
function checkFactor(factor: Factor, path: Path): void {
  const { name } = factor;
  const at = (key: string): Path => [...path, key];
  if (factor.kind === "categorical") {
    unique(
      factor.levels.map((value, i) => ({ value, path: [...path, "levels", i] })),
      `In ${name}, level`,
    );
    if (factor.retired !== undefined && !factor.levels.includes(String(factor.retired)))
      throw new StudyError("unknown-level.retired", { factor: name, level: String(factor.retired) }, at("retired"));
    return;
  }
  if (factor.retired !== undefined && typeof factor.retired !== "number")
    throw new StudyError("not-a-number.retired", { factor: name, value: String(factor.retired) }, at("retired"));
  if (factor.kind === "discrete") {
    factor.values.forEach((v, i) => finite(v, [...path, "values", i]));
    const sorted = [...factor.values].sort((a, b) => a - b);
    const twice = sorted.find((v, i) => i > 0 && v === sorted[i - 1]);
    if (twice !== undefined) throw new StudyError("duplicate.listed", { factor: name, value: twice }, at("values"));
    if (factor.scale === "log" && sorted[0] <= 0)
      throw new StudyError("log-of-nothing.values", { factor: name }, at("values"));
    return;
  }
  const { low, high, hardLow, hardHigh, step } = factor;
  finite(low, at("low"));
  finite(high, at("high"));
  if (!(low < high)) throw new StudyError("low-not-below-high", { factor: name, low, high }, at("low"));
  if (hardLow !== undefined && hardLow > low)
    throw new StudyError("hard-limit.lower", { factor: name, hard: hardLow, low }, at("hardLow"));
  if (hardHigh !== undefined && hardHigh < high)
    throw new StudyError("hard-limit.upper", { factor: name, hard: hardHigh, high }, at("hardHigh"));
  if (step !== undefined && step > (high - low) * (1 + 1e-12))
    throw new StudyError("step-too-large", { factor: name, step, low, high }, at("step"));
  if (step !== undefined && (high - low) / step > 1e6)
    throw new StudyError("step-too-small", { factor: name, step }, at("step"));
  if (factor.scale === "log" && (low <= 0 || (hardLow ?? low) <= 0))
    throw new StudyError("log-of-nothing.range", { factor: name }, at("low"));
}

/**
 * Bounds and goal of a response in themselves.
 * @throws StudyError `bounds`, `goal`
 */
function checkGoal(response: Study["responses"][number], path: Path): void {
  const { goal, name, bounds } = response;
  if (bounds?.min !== undefined && bounds.max !== undefined && bounds.min >= bounds.max)
    throw new StudyError("bounds", { response: name, min: bounds.min, max: bounds.max }, [...path, "bounds"]);
  checkKind(response, path);
  if (goal.aim === "watch") return;
  if (!(goal.low < goal.high))
    throw new StudyError("goal.low", { response: name, low: goal.low, high: goal.high }, [...path, "goal", "low"]);
  if (
    (goal.aim === "hit" || goal.aim === "within") &&
    goal.target !== undefined &&
    (goal.target < goal.low || goal.target > goal.high)
  )
    throw new StudyError("goal.target", { response: name, target: goal.target, low: goal.low, high: goal.high }, [
      ...path,
      "goal",
      "target",
    ]);
}

/**
 * What belongs to other kinds of response, and what a kind may ask for.
 * @throws StudyError `counted-what`, `counted-goal`, `counted-result`
 */
function checkKind(response: Study["responses"][number], path: Path): void {
  const { goal, name, base, smallest } = response;
  const { fields, rescaled, percent, misfit, ends } = kindOf(response);
  for (const key of KIND_FIELDS)
    if (!fields.includes(key) && response[key] !== undefined)
      throw new StudyError("counted-what", { response: name, key }, [...path, key]);
  if (!rescaled && response.spread)
    throw new StudyError("counted-what", { response: name, key: "spread" }, [...path, "spread"]);
  const wrong = misfit?.(response);
  if (wrong)
    throw new StudyError("counted-result", { place: null, response: name, fault: wrong.fault }, [...path, wrong.key]);
  const asked: [string, number | undefined, Path][] = [
    ["base", base, ["base"]],
    ["smallest", smallest, ["smallest"]],
  ];
  if (goal.aim !== "watch") asked.push(["low", goal.low, ["goal", "low"]], ["high", goal.high, ["goal", "high"]]);
  for (const [what, value, at] of asked)
    if (value !== undefined && (value < ends[0] || value > ends[1]))
      throw new StudyError("counted-goal", { response: name, what, value, share: percent }, [...path, ...at]);
}

/**
 * One setting against its factor.
 * @throws StudyError `unknown-id`, `unknown-level`, `not-a-number`, `log-of-nothing`
 */
function checkSetting(factor: Factor | undefined, id: string, value: Setting, path: Path): void {
  if (!factor) throw new StudyError("unknown-id.factor", { place: pathText(path), id }, path);
  if (factor.kind === "categorical") {
    if (typeof value !== "string" || !factor.levels.includes(value))
      throw new StudyError(
        "unknown-level.value",
        { place: pathText(path), factor: factor.name, value: quoted(value), levels: factor.levels },
        path,
      );
  } else if (typeof value !== "number")
    throw new StudyError(
      "not-a-number.setting",
      { place: pathText(path), factor: factor.name, value: quoted(value) },
      path,
    );
  else {
    finite(value, path);
    if (factor.scale === "log" && value <= 0)
      throw new StudyError("log-of-nothing.setting", { place: pathText(path), factor: factor.name, value }, path);
  }
}

/**
 * Throws unless every factor in use has a setting of the right kind and no unknown factor is named.
 * @throws StudyError `missing`
 */
export function checkSettings(factors: readonly Factor[], settings: Settings, path: Path, complete = true): void {
  for (const [id, value] of Object.entries(settings))
    checkSetting(
      factors.find((f) => f.id === id),
      id,
      value,
      [...path, id],
    );
  if (complete)
    for (const factor of factors)
      if (isActive(factor) && settings[factor.id] === undefined)
        throw new StudyError("missing.setting", { place: pathText(path), factor: factor.name, id: factor.id }, [
          ...path,
          factor.id,
        ]);
}

/**
 * Limits and forbidden combinations against the factors.
 * @throws StudyError `empty-limit`, `unknown-id`, `category-in-limit`, `unknown-level`, `forbidden`
 */
function checkRegion(study: Study): void {
  const byId = new Map(study.factors.map((f) => [f.id, f]));
  study.region.limits.forEach((limit, i) => {
    const path: Path = ["region", "limits", i];
    finite(limit.bound, [...path, "bound"]);
    const ids = Object.keys(limit.terms);
    if (ids.length === 0) throw new StudyError("empty-limit.limit", { place: pathText(path) }, path);
    for (const id of ids) {
      const factor = byId.get(id);
      const termPath = [...path, "terms", id];
      if (!factor) throw new StudyError("unknown-id.factor", { place: pathText(termPath), id }, termPath);
      if (factor.kind === "categorical") throw new StudyError("category-in-limit", { factor: factor.name }, termPath);
      finite(limit.terms[id], termPath);
    }
  });
  study.region.forbidden.forEach((combination, i) => {
    const path: Path = ["region", "forbidden", i];
    if (Object.keys(combination).length === 0)
      throw new StudyError("empty-limit.combination", { place: pathText(path) }, path);
    for (const [id, part] of Object.entries(combination)) {
      const factor = byId.get(id);
      const factorPath = [...path, id];
      if (!factor) throw new StudyError("unknown-id.factor", { place: pathText(factorPath), id }, factorPath);
      if (Array.isArray(part)) {
        for (const value of part) checkSetting(factor, id, value, factorPath);
      } else {
        if (factor.kind === "categorical")
          throw new StudyError("unknown-level.list", { place: pathText(factorPath), factor: factor.name }, factorPath);
        if (part.from !== undefined && part.to !== undefined && part.from > part.to)
          throw new StudyError("forbidden", { place: pathText(factorPath), from: part.from, to: part.to }, factorPath);
      }
    }
  });
}

/**
 * Models against responses and factors.
 * @throws StudyError `unknown-id`, `duplicate`, or as their terms
 */
function checkModels(study: Study): void {
  const known = new Map<string, { kind: string; name: string }>([
    ...study.factors.map((f) => [f.id, f] as const),
    ...study.covariates.map((c) => [c.id, { kind: "covariate", name: c.name }] as const),
  ]);
  const seen = new Set<string>();
  study.models.forEach((model, i) => {
    const path: Path = ["models", i];
    if (!study.responses.some((r) => r.id === model.response))
      throw new StudyError("unknown-id.response-at", { place: pathText([...path, "response"]), id: model.response }, [
        ...path,
        "response",
      ]);
    if (seen.has(model.response))
      throw new StudyError("duplicate.model", { response: model.response }, [...path, "response"]);
    seen.add(model.response);
    const sets = [
      { terms: model.terms, at: [...path, "terms"] },
      ...(model.rivals ?? []).map((terms, r) => ({ terms, at: [...path, "rivals", r] })),
      ...(model.steps ?? []).map((step, s) => ({ terms: step.terms, at: [...path, "steps", s, "terms"] })),
      ...(model.steps ?? []).map((step, s) => ({ terms: step.moved ?? [], at: [...path, "steps", s, "moved"] })),
    ];
    for (const set of sets) checkTermSet(known, set.terms, set.at);
  });
}

/**
 * Throws unless a set of terms names what the study has, each term once.
 * @throws StudyError `unknown-id`, `covariate-term`, `category-squared`, `duplicate`
 */
function checkTermSet(
  known: ReadonlyMap<string, { kind: string; name: string }>,
  set: readonly string[][],
  path: Path,
): void {
  const terms = new Set<string>();
  set.forEach((term, j) => {
    const trialPath = [...path, j];
    for (const id of term) {
      const factor = known.get(id);
      if (!factor) throw new StudyError("unknown-id.term", { place: pathText(trialPath), id }, trialPath);
      if (factor.kind === "covariate" && term.length > 1)
        throw new StudyError("covariate-term.alone", { place: pathText(trialPath), covariate: factor.name }, trialPath);
      if (factor.kind === "categorical" && term.filter((other) => other === id).length > 1)
        throw new StudyError("category-squared", { place: pathText(trialPath), factor: factor.name }, trialPath);
    }
    const key = [...term].sort().join("*");
    if (terms.has(key))
      throw new StudyError("duplicate.term", { place: pathText(trialPath), term: term.join(" × ") || null }, trialPath);
    terms.add(key);
  });
}

/**
 * Fills names, letters, orders; then checks all that a shape alone cannot say. What is whole already keeps its
 * identity.
 */
export function complete(parsed: ReturnType<typeof studySchema.parse>, before?: Study): Study {
  const letters = new Set(parsed.factors.flatMap((f) => (f.letter ? [f.letter] : [])));
  const list = <T, U extends T>(
    items: readonly T[],
    before: readonly U[] | undefined,
    fill: (item: T, i: number) => U,
  ): U[] => {
    const kept = new Set<unknown>(before?.filter((x, i) => x !== items[i]));
    const filled = items.map((item, i) => (item === before?.[i] || kept.has(item) ? (item as U) : fill(item, i)));
    return before?.length === filled.length && filled.every((x, i) => x === before[i]) ? (before as U[]) : filled;
  };
  const factors = list(parsed.factors, before?.factors, (f): Factor => {
    const letter = f.letter ?? nextLetter(letters);
    letters.add(letter);
    const common = { name: f.name ?? f.id, letter };
    if (f.kind === "discrete") return { ...f, ...common, values: [...f.values].sort((a, b) => a - b) };
    return { ...f, ...common };
  });
  const standards = new Map<string, number>();
  let order = 0;
  const study: Study = {
    ...parsed,
    factors,
    covariates: list(parsed.covariates, before?.covariates, (c) => ({ ...c, name: c.name ?? c.id })),
    responses: list(parsed.responses, before?.responses, (r) => ({ ...r, name: r.name ?? r.id })),
    waves: list(parsed.waves, before?.waves, (w, i) => ({ ...w, name: w.name ?? `Wave ${i + 1}` })),
    trials: [],
  };
  // Only trials that say no place of their own go behind those that are known.
  const known = new Set<unknown>(
    parsed.trials.some((t) => t.order === undefined || t.standard === undefined) ? before?.trials : [],
  );
  for (const t of parsed.trials)
    if (known.has(t)) {
      order = Math.max(order, t.order ?? 0);
      standards.set(t.wave, Math.max(standards.get(t.wave) ?? 0, t.standard ?? 0));
    }
  study.trials = list(parsed.trials, before?.trials, (t) => {
    const standard = t.standard ?? (standards.get(t.wave) ?? 0) + 1;
    standards.set(t.wave, standard);
    order = t.order ?? order + 1;
    return { ...t, standard, order };
  });
  check(study, before);
  return study;
}

/**
 * Checks what a study's shape cannot say: names, ranges, references, orders.
 *
 * @param before a study known to be whole: what it shares with this one, by identity, is not looked at again
 * @throws StudyError with the path of the first fault
 */
// One rule after another, each on its own.
function check(study: Study, before?: Study): void {
  const sameQuestion =
    before !== undefined &&
    before.factors === study.factors &&
    before.covariates === study.covariates &&
    before.responses === study.responses &&
    before.waves === study.waves;
  const inputs = [
    ...study.factors.map((f, i) => ({ f, path: ["factors", i] as Path })),
    ...study.covariates.map((f, i) => ({ f, path: ["covariates", i] as Path })),
    ...study.responses.map((f, i) => ({ f, path: ["responses", i] as Path })),
  ];
  unique(
    inputs.map(({ f, path }) => ({ value: f.id, path: [...path, "id"] })),
    "The id",
  );
  unique(
    inputs.map(({ f, path }) => ({ value: f.name, path: [...path, "name"] })),
    "The name",
  );
  unique(
    study.factors.map((f, i) => ({ value: f.letter, path: ["factors", i, "letter"] })),
    "The letter",
  );
  study.factors.forEach((f, i) => checkFactor(f, ["factors", i]));
  study.responses.forEach((r, i) => {
    checkGoal(r, ["responses", i]);
    if (!r.spread) return;
    const source = study.responses.find((q) => q.id === r.spread?.of);
    if (!source || source.spread)
      throw new StudyError("unknown-id.spread", { response: r.name, of: r.spread.of }, [
        "responses",
        i,
        "spread",
        "of",
      ]);
    if (!kindOf(source).rescaled)
      throw new StudyError("counted-spread", { response: r.name, of: source.name }, ["responses", i, "spread", "of"]);
  });
  checkRegion(study);
  unique(
    study.waves.map((w, i) => ({ value: w.id, path: ["waves", i, "id"] })),
    "The wave id",
  );
  // Trials that keep their ids and orders, as they do where results come in, were found to be different before.
  const sameTrials =
    before !== undefined &&
    before.trials.length === study.trials.length &&
    study.trials.every((t, i) => t.id === before.trials[i].id && t.order === before.trials[i].order);
  if (!sameTrials)
    unique(
      study.trials.map((t, i) => ({ value: t.id, path: ["trials", i, "id"] })),
      "The trial id",
    );
  const waves = new Set(study.waves.map((w) => w.id));
  const byId = new Map(study.responses.map((r) => [r.id, r]));
  const responses = new Set(byId.keys());
  const spreads = new Set(study.responses.flatMap((r) => (r.spread ? [r.id] : [])));
  const covariates = new Set(study.covariates.map((c) => c.id));
  const orders = new Set<number>();
  const known = new Set(sameQuestion && !sameTrials ? before.trials : []);
  study.trials.forEach((trial, i) => {
    if (sameTrials && sameQuestion && trial === before.trials[i]) return;
    const path: Path = ["trials", i];
    if (!waves.has(trial.wave))
      throw new StudyError("unknown-id.wave", { place: pathText([...path, "wave"]), id: trial.wave }, [
        ...path,
        "wave",
      ]);
    if (!sameTrials && orders.has(trial.order))
      throw new StudyError("duplicate.order", { place: pathText([...path, "order"]), order: trial.order }, [
        ...path,
        "order",
      ]);
    orders.add(trial.order);
    if (known.has(trial)) return;
    checkSettings(study.factors, trial.settings, [...path, "settings"]);
    if (trial.asRun) checkSettings(study.factors, trial.asRun, [...path, "asRun"], false);
    for (const id of Object.keys(trial.results))
      if (!responses.has(id))
        throw new StudyError("unknown-id.response-at", { place: pathText([...path, "results", id]), id }, [
          ...path,
          "results",
          id,
        ]);
      else if (spreads.has(id))
        throw new StudyError("spread-result", { place: pathText([...path, "results", id]), id }, [
          ...path,
          "results",
          id,
        ]);
      else checkResult(byId.get(id), trial.results[id], [...path, "results", id]);
    for (const id of Object.keys(trial.covariates ?? {}))
      if (!covariates.has(id))
        throw new StudyError("unknown-id.covariate", { place: pathText([...path, "covariates", id]), id }, [
          ...path,
          "covariates",
          id,
        ]);
  });
  const sameSetups =
    sameTrials &&
    sameQuestion &&
    study.trials.every((t, i) => {
      const was = before.trials[i];
      return t === was || (t.setup === was.setup && t.wave === was.wave && t.settings === was.settings);
    });
  if (!sameSetups) checkSetups(study);
  checkModels(study);
  unique(
    study.rivals.map((r, i) => ({ value: r.id, path: ["rivals", i, "id"] })),
    "The rival plan's id",
  );
  if (study.setpoint) {
    checkSettings(study.factors, study.setpoint.settings, ["setpoint", "settings"], false);
    study.setpoint.held.forEach((id, i) => {
      if (!study.factors.some((f) => f.id === id))
        throw new StudyError("unknown-id.factor", { place: `setpoint.held[${i}]`, id }, ["setpoint", "held", i]);
    });
  }
}

/**
 * Set-ups of each wave: all its trials have one or none, a set-up's trials follow each other in run order and have
 * equal planned settings of the hard factors. Without hard factors they are ignored.
 * @throws StudyError `setup`
 */
function checkSetups(study: Study): void {
  const hard = hardFactors(study);
  if (hard.length === 0) return;
  for (const wave of study.waves) {
    const trials = study.trials.filter((t) => t.wave === wave.id).sort((a, b) => a.order - b.order);
    const missing = trials.find((t) => t.setup === undefined);
    if (missing && trials.some((t) => t.setup !== undefined))
      throw new StudyError("setup.part", { wave: wave.name, order: missing.order }, ["trials", missing.id, "setup"]);
    const first = new Map<number, Trial>();
    let before: number | undefined;
    for (const t of trials) {
      if (t.setup === undefined) continue;
      const opened = first.get(t.setup);
      if (opened && t.setup !== before)
        throw new StudyError("setup.apart", { wave: wave.name, setup: t.setup, order: t.order }, [
          "trials",
          t.id,
          "setup",
        ]);
      for (const f of hard)
        if (opened && opened.settings[f.id] !== t.settings[f.id])
          throw new StudyError("setup.changes", { factor: f.name, setup: t.setup, order: t.order, wave: wave.name }, [
            "trials",
            t.id,
            "setup",
          ]);
      if (!opened) first.set(t.setup, t);
      before = t.setup;
    }
  }
}

/**
 * A result against how its response is measured.
 * @throws StudyError `counted-result`
 */
export function checkResult(about: Response | undefined, result: Result | undefined, path: Path): void {
  const fault = about && faultOfResult(about, result);
  if (about && fault)
    throw new StudyError("counted-result", { place: pathText(path), response: about.name, fault }, path);
}

/**
 * Reads a study from plain data, fills defaults and checks it whole.
 * @throws StudyError with a path: unknown keys, unknown ids, newer versions, contradictions
 */
export function parseStudy(input: unknown): Study {
  if (typeof input !== "object" || input === null || Array.isArray(input)) throw new StudyError("not-a-study.top", {});
  const { format, version } = input as Record<string, unknown>;
  if (format !== FORMAT) throw new StudyError("not-a-study.format", { format: FORMAT }, ["format"]);
  if (typeof version !== "number" || !Number.isInteger(version) || version < 1)
    throw new StudyError("bad-version", {}, ["version"]);
  if (version > VERSION) throw new StudyError("newer-version", { version, reads: VERSION }, ["version"]);
  const parsed = holdAgainst(studySchema, input);
  if (!parsed.success) throw issueError(parsed.error.issues[0], input);
  return complete(parsed.data);
}

/** One fault of a study file. */
export interface StudyFault {
  code: string;
  message: string;
  path: ReadonlyArray<string | number>;
}

const MOST_FAULTS = 200;

/** Removes what a fault is about from plain data, so that what stands beside it can be looked at too. */
function without(input: unknown, path: ReadonlyArray<string | number>): boolean {
  // A list's member goes whole: what is left of it would only be faulty again.
  const depth = path.findIndex((part, i) => typeof part === "number" && i > 0);
  const parent = depth < 0 ? path : path.slice(0, depth + 1);
  let inside = input as Record<string | number, unknown> | undefined;
  for (const part of parent.slice(0, -1)) inside = inside?.[part] as typeof inside;
  const last = parent[parent.length - 1];
  if (inside === undefined || inside === null || last === undefined || !(last in inside)) return false;
  if (Array.isArray(inside)) inside.splice(Number(last), 1);
  else delete inside[last];
  return true;
}

/**
 * Every fault of a study file at once: first those of its shape, then those that only show between its parts. After
 * each fault its place is set aside and the rest looked at again; places are those of the file as it is.
 */
export function studyFaults(input: unknown): StudyFault[] {
  const faultOf = ({ code, message, path }: StudyError): StudyFault => ({ code, message, path });
  try {
    parseStudy(input);
    return [];
  } catch (error) {
    if (!(error instanceof StudyError)) throw error;
    if (["not-a-study", "unreadable"].includes(error.code) || error.code.endsWith("-version")) return [faultOf(error)];
  }
  const shape = holdAgainst(studySchema, input);
  if (!shape.success) return shape.error.issues.slice(0, MOST_FAULTS).map((issue) => faultOf(issueError(issue, input)));
  const faults: StudyFault[] = [];
  const rest: unknown = JSON.parse(JSON.stringify(input));
  /** Members set aside of each list, as they were numbered in the file. */
  const gone = new Map<string, number[]>();
  while (faults.length < MOST_FAULTS) {
    try {
      parseStudy(rest);
      return faults;
    } catch (error) {
      if (!(error instanceof StudyError)) throw error;
      const depth = error.path.findIndex((part, i) => typeof part === "number" && i > 0);
      const list = error.path.slice(0, Math.max(0, depth)).join(".");
      const removed = gone.get(list) ?? [];
      let index = Number(error.path[depth]);
      if (depth >= 0) {
        for (const g of [...removed].sort((a, b) => a - b)) if (g <= index) index++;
        gone.set(list, [...removed, index]);
      }
      const path = error.path.map((part, i) => (i === depth ? index : part));
      const message = error.message.replace(pathText(error.path), pathText(path));
      faults.push({ code: error.code, message, path });
      if (!without(rest, error.path)) return faults;
    }
  }
  return faults;
}

/** A study with nothing in it but a title. */
export const blankStudy = (title: string): Study => parseStudy({ format: FORMAT, version: VERSION, title });
