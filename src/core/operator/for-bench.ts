import type { Study } from "../study/schema";

/**
 * What a person beside the machine needs of a study, and no more: what to set, in which order, and what came out. What
 * is wanted of the responses, how the waves were made, models, setpoint and report stay at the desk.
 */
export function forBench(study: Study): Study {
  const { format, version, title, confidence, factors, covariates, trials } = study;
  return {
    format,
    version,
    title,
    confidence,
    factors,
    covariates,
    trials,
    notes: "",
    responses: study.responses.map(({ id, name, unit, bounds, decimals, several, measured, of, spread, notes }) => ({
      id,
      name,
      importance: 1,
      goal: { aim: "watch" },
      ...(unit === undefined ? {} : { unit }),
      ...(bounds ? { bounds } : {}),
      ...(decimals === undefined ? {} : { decimals }),
      ...(several ? { several } : {}),
      ...(measured ? { measured } : {}),
      ...(of === undefined ? {} : { of }),
      ...(spread ? { spread } : {}),
      ...(notes === undefined ? {} : { notes }),
    })),
    region: { limits: [], forbidden: [] },
    waves: study.waves.map(({ id, name }) => ({ id, name, purpose: "", plan: { family: "own" } })),
    models: [],
    rivals: [],
  };
}
