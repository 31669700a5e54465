import { hasSquares, type ModelSummary, type SquaresSummary } from "../model/fitted";
import { StudyError } from "../study/error";
import type { Goal, Settings, Study, StudyInput } from "../study/schema";
import { parseStudy } from "../study/validate";

/** Digits on which a value agrees with a reference: the log relative error of NIST's comparisons. */
export function digits(value: number | null | undefined, reference: number | string): number {
  const r = Number(reference);
  if (value === null || value === undefined || Number.isNaN(value)) return 0;
  if (value === r) return 16;
  return r === 0 ? -Math.log10(Math.abs(value)) : -Math.log10(Math.abs((value - r) / r));
}

/** A study with `k` two-level factors a, b, … of range −1 … 1 and one response y. */
export function plainStudy(k: number, more: Partial<StudyInput> = {}): Study {
  return parseStudy({
    format: "trialmoor-study",
    version: 1,
    title: "test",
    factors: Array.from({ length: k }, (_, i) => ({
      id: String.fromCharCode(97 + i),
      kind: "continuous" as const,
      low: -1,
      high: 1,
    })),
    responses: [{ id: "y" }],
    ...more,
  });
}

/** The study with one wave of trials at the settings given and the results in order. */
export function withTrials(
  study: Study,
  settings: Settings[],
  y: (number | null)[] = [],
  more: { wave?: (i: number) => string; asRun?: (Settings | undefined)[] } = {},
): Study {
  const waves = [...new Set(settings.map((_, i) => more.wave?.(i) ?? "w1"))];
  return parseStudy({
    ...study,
    waves: waves.map((id) => ({ id })),
    trials: settings.map((s, i) => ({
      id: `t${i + 1}`,
      wave: more.wave?.(i) ?? "w1",
      state: "done",
      settings: s,
      ...(more.asRun?.[i] ? { asRun: more.asRun[i] } : {}),
      results: { y: y[i] ?? null },
    })),
  });
}

/** Corners of `k` two-level factors a, b, … in standard order. */
export const corners = (k: number): Settings[] =>
  Array.from({ length: 2 ** k }, (_, i) =>
    Object.fromEntries(Array.from({ length: k }, (__, j) => [String.fromCharCode(97 + j), (i >> j) & 1 ? 1 : -1])),
  );

/** A study over k factors from −1 to 1 whose second-order models reproduce the given functions of all factors. */
export function exactStudy(
  k: number,
  responses: { goal: Goal; importance?: number; of: (x: number[]) => number }[],
  more: Partial<StudyInput> = {},
): Study {
  const ids = plainStudy(k).factors.map((f) => f.id);
  const middle = Object.fromEntries(ids.map((id) => [id, 0]));
  const points = [
    ...corners(k),
    middle,
    ...ids.flatMap((id) => [-1, 1].map((v): Settings => ({ ...middle, [id]: v }))),
  ];
  const terms = [
    ...ids.map((a) => [a]),
    ...ids.flatMap((a, i) => ids.slice(i + 1).map((b) => [a, b])),
    ...ids.map((a) => [a, a]),
  ];
  return plainStudy(k, {
    ...more,
    responses: responses.map(({ goal, importance }, r) => ({ id: `y${r}`, goal, importance: importance ?? 1 })),
    waves: [{ id: "w" }],
    trials: points.map((settings, i) => ({
      id: `t${i}`,
      wave: "w",
      state: "done",
      settings,
      results: Object.fromEntries(responses.map((r, q) => [`y${q}`, r.of(ids.map((id) => settings[id] as number))])),
    })),
    models: responses.map((_, q) => ({ response: `y${q}`, terms })),
  });
}

/** The sentence with which some work is refused; empty when it is not. Any other error goes on. */
export function refusal(work: () => unknown): string {
  try {
    work();
  } catch (error) {
    if (error instanceof StudyError) return error.message;
    throw error;
  }
  return "";
}

/** A study of these factors with one response y. */
export const studyOf = (factors: StudyInput["factors"], more: Partial<StudyInput> = {}): Study =>
  parseStudy({ format: "trialmoor-study", version: 1, title: "t", factors, responses: [{ id: "y" }], ...more });

/** A continuous factor of range −1 … 1 unless said otherwise. */
export const cont = (id: string, more: object = {}) => ({ id, kind: "continuous" as const, low: -1, high: 1, ...more });

/** A category. */
export const cat = (id: string, ...levels: string[]) => ({ id, kind: "categorical" as const, levels });

/** A plan's trials as the appraisal takes them. */
export const pointsOf = (plan: {
  trials: { settings: Settings; wave: string }[];
}): { settings: Settings[]; waves: string[] } => ({
  settings: plan.trials.map((t) => t.settings),
  waves: plan.trials.map((t) => t.wave),
});

export const sum = (values: readonly number[]): number => values.reduce((t, v) => t + v, 0);

/** A summary of least squares; a summary of any other law fails the test. */
export function squares(summary: ModelSummary): SquaresSummary {
  if (!hasSquares(summary)) throw new Error(`Law ${summary.law} has no sums of squares.`);
  return summary;
}
