import { code, isNumeric } from "../../study/coding";
import type { Study } from "../../study/schema";
import type { Design } from "../design";
import type { FewCounted } from "../fitted";
import type { CountedData } from "../model-data";
import { countedOf, fitCounted } from "./counted-solved";
import type { Counted } from "./counting";
import type { LargestModel } from "./law";
import { Surface } from "./likelihood";

/** Fewer events, or pieces that are not events, than this at some level, and likelihoods are penalised. */
const FEW = 10;
/** Newton's method ends within a few steps where nothing separates; elsewhere it goes on without end. */
const ENOUGH_STEPS = 30;

/** The level of a factor or wave at which fewest were counted, where those are fewer than ten. */
function fewest(study: Study, design: Design, data: CountedData): FewCounted | undefined {
  let found: Extract<FewCounted, { why: "few" }> | undefined;
  const look = (of: string, level: string, places: readonly number[]): void => {
    if (places.length === 0) return;
    const sides: ["events" | "others", number][] = [["events", places.reduce((t, i) => t + data.events[i], 0)]];
    if (data.kind === "share") sides.push(["others", places.reduce((t, i) => t + data.of[i] - data.events[i], 0)]);
    for (const [which, counted] of sides)
      if (counted < Math.min(FEW, found?.counted ?? FEW)) found = { why: "few", of, level, which, counted };
  };
  const places = design.data.trials.map((_, i) => i);
  const spoken = new Set(design.terms.flat());
  for (const f of study.factors) {
    if (!spoken.has(f.id)) continue;
    if (isNumeric(f)) {
      const side = (sign: number): number[] =>
        places.filter((i) => Math.sign(code(f, design.data.planned[i][f.id] as number)) === sign);
      look(f.name, "low", side(-1));
      look(f.name, "high", side(1));
    } else
      for (const level of f.levels)
        look(
          f.name,
          level,
          places.filter((i) => design.data.planned[i][f.id] === level),
        );
  }
  if (design.columns.some((c) => c.key === "@wave"))
    for (const w of study.waves)
      look(
        w.name,
        "",
        places.filter((i) => design.data.waves[i] === w.id),
      );
  return found;
}

/** Whether coefficients of a likelihood run off without end. */
function separates(counted: Counted, data: CountedData, { matrix }: Design): boolean {
  const surface = new Surface({ x: matrix, counting: counted.counting(data, 0), penalised: false });
  const start = new Float64Array(matrix.cols);
  return !surface.maximum(
    Array.from({ length: matrix.cols }, (_, j) => j),
    start,
    ENOUGH_STEPS,
  ).converged;
}

/** What is decided once for a counted response, on the largest model that its trials can tell. */
export function judgeCounts(counted: Counted, study: Study, largest: Design): LargestModel {
  const data = countedOf(largest);
  const firth =
    fewest(study, largest, data) ?? (separates(counted, data, largest) ? { why: "separates" as const } : undefined);
  const { scatter, extra } = fitCounted(counted, data, largest.matrix, firth !== undefined);
  return { ...(firth ? { firth } : {}), dispersion: scatter.dispersion, extra };
}
