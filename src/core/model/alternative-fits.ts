import { kindOf } from "../kinds/results";
import { isNumeric } from "../study/coding";
import { StudyError } from "../study/error";
import { Memo } from "../study/memo";
import { activeFactors, isUsable } from "../study/roles";
import type { Factor, Setting, Settings, Study, Term, Transform, Trial } from "../study/schema";
import { type TermSetName, termSet } from "../terms/candidates";
import { alphabetOf, inModelOrder, termKey } from "../terms/term";
import { type Fitting, responseOf, storedModel } from "./data";
import { type Fit, fitModel } from "./fit";
import { scaleOf } from "./transform";

/** Another way to fit the results of a response, to stand beside its model. */
export type AlternativeFit =
  | { by: "terms"; set: TermSetName }
  | { by: "rival"; place: number }
  | { by: "scale"; transform: Transform }
  | { by: "wave"; wave: string; how: "alone" | "without" }
  | { by: "blocks"; block: boolean }
  | { by: "categories"; factor: string };

/** Levels up to which a numeric factor can be read as categories. */
const MOST_LEVELS = 12;
const SCALES: Transform[] = ["none", "log", "sqrt", "inverse", "logit", "asin-sqrt"];

/** Settings of a numeric factor among trials that count, ascending. */
const settingsOf = (trials: readonly Trial[], factor: string): number[] =>
  [...new Set(trials.map((t) => t.settings[factor] as number))].sort((a, b) => a - b);

/**
 * A study in which a numeric factor is a category of the settings planned, for what a curve would smooth over. What was
 * really set counts as the level planned, and limits of the region that hold the factor are left aside.
 * @throws StudyError `not-categories` for fewer than two or more than twelve settings
 */
export function asCategories(study: Study, id: string): Study {
  const factor = study.factors.find((f) => f.id === id);
  const values = settingsOf(study.trials.filter(isUsable), id);
  if (!factor || !isNumeric(factor) || values.length < 2 || values.length > MOST_LEVELS)
    throw new StudyError("not-categories", { factor: factor?.name ?? id, settings: values.length, most: MOST_LEVELS });
  const { letter, name } = factor;
  const category: Factor = { id, letter, name, change: factor.change, kind: "categorical", levels: values.map(String) };
  const level = (s: Settings): Settings => ({ ...s, [id]: String(s[id]) });
  const without = <T>(bag: Record<string, T>): Record<string, T> =>
    Object.fromEntries(Object.entries(bag).filter(([key]) => key !== id));
  return {
    ...study,
    factors: study.factors.map((f) => (f.id === id ? category : f)),
    trials: study.trials.filter(isUsable).map((t) => {
      const { asRun, ...trial } = t;
      return { ...trial, settings: level(t.settings), ...(asRun ? { asRun: without<Setting>(asRun) } : {}) };
    }),
    region: {
      limits: study.region.limits.filter((l) => !(id in l.terms)),
      forbidden: study.region.forbidden.filter((f) => !(id in f)),
    },
    models: [],
  };
}

/** The ways that make sense for a response: those that would be the same model again are left out. */
export function alternativeFits(study: Study, fit: Fit): AlternativeFit[] {
  const trials = fit.data.trials;
  const inUse = new Set(fit.terms.flat());
  const waves = study.waves.filter((w) => trials.some((t) => t.wave === w.id));
  const stored = storedModel(study, fit.response);
  const present = fit.terms.map(termKey).join("|");
  const sets = (["main", "main+2fi", "quadratic"] as const).filter(
    (set) => inModelOrder(alphabetOf(study), termSet(study, set)).map(termKey).join("|") !== present,
  );
  const scales = SCALES.filter(
    (s) =>
      kindOf(responseOf(study, fit.response)).rescaled &&
      JSON.stringify(s) !== JSON.stringify(fit.transform) &&
      fit.data.y.every((v) => Number.isFinite(scaleOf(s).forward(v))),
  );
  const readable = activeFactors(study).filter((f) => {
    if (!isNumeric(f) || !inUse.has(f.id)) return false;
    const n = settingsOf(trials, f.id).length;
    return n > 2 && n <= MOST_LEVELS;
  });
  return [
    ...sets.map((set): AlternativeFit => ({ by: "terms", set })),
    ...(stored?.rivals ?? []).map((_, place): AlternativeFit => ({ by: "rival", place })),
    ...scales.map((transform): AlternativeFit => ({ by: "scale", transform })),
    ...(waves.length > 1
      ? [
          { by: "blocks" as const, block: !fit.fitting.block },
          ...waves.map((w): AlternativeFit => ({ by: "wave", wave: w.id, how: "alone" })),
          ...(waves.length > 2 ? waves.map((w): AlternativeFit => ({ by: "wave", wave: w.id, how: "without" })) : []),
        ]
      : []),
    ...readable.map((f): AlternativeFit => ({ by: "categories", factor: f.id })),
  ];
}

/**
 * The fit of a response in another way, with the study it is read by; columns that its trials cannot tell are dropped
 * and named, as in every fit.
 * @throws StudyError as `fitModel`, or `not-categories`
 */
export function fitAlternative(
  study: Study,
  fit: Fit,
  way: AlternativeFit,
  memo = new Memo(),
): { study: Study; fit: Fit } {
  const again = (
    about: Study,
    terms: readonly Term[] = fit.terms,
    fitting: Partial<Fitting> = {},
  ): { study: Study; fit: Fit } => ({
    study: about,
    fit: fitModel(about, fit.response, { ...fit.fitting, ...fitting, terms: [...terms] }, memo),
  });
  switch (way.by) {
    case "terms":
      return again(study, termSet(study, way.set));
    case "rival":
      return again(study, storedModel(study, fit.response)?.rivals?.[way.place] ?? fit.terms);
    case "scale":
      return again(study, fit.terms, { transform: way.transform });
    case "blocks":
      return again(study, fit.terms, { block: way.block });
    case "wave":
      return again({
        ...study,
        trials: study.trials.filter((t) => (t.wave === way.wave) === (way.how === "alone")),
      });
    case "categories": {
      const read = asCategories(study, way.factor);
      // A category has no squares: what they stood for its levels say.
      return again(
        read,
        fit.terms.filter((t) => t.filter((f) => f === way.factor).length < 2),
      );
    }
  }
}
