// What Plan marks first for twenty questions, with why: read it through by eye. `npx tsx bench/first-plan.ts`

import { planReadings } from "../src/core/findings/plan";
import { defaultPicks, firstPick } from "../src/core/planning/default-picks";
import type { PlanRequest, PlanSummary } from "../src/core/planning/plan-summary";
import { type PlanSummariesStep, planSummarySteps } from "../src/core/planning/plans-in-sight";
import { usualRequest } from "../src/core/planning/usual-request";
import type { Study } from "../src/core/study/schema";
import { parseStudy } from "../src/core/study/validate";
import { messageText } from "../src/core/words/answers";

interface Asked {
  what: string;
  /** Numeric factors, then levels of each category; `hard` of them are hard to change, the first ones. */
  numeric: number;
  categories?: number[];
  hard?: number;
  /** Smallest change worth finding over the noise; none stated unless said. */
  wanted?: number;
  more?: Partial<PlanRequest>;
}

const QUESTIONS: Asked[] = [
  { what: "two factors, nothing stated", numeric: 2 },
  { what: "two factors, 2 σ worth finding", numeric: 2, wanted: 2 },
  { what: "three factors, nothing stated", numeric: 3 },
  { what: "three factors, four copies", numeric: 3, more: { replicates: 4 } },
  { what: "three factors, 1.5 σ", numeric: 3, wanted: 1.5 },
  { what: "three factors with curvature, 2 σ", numeric: 3, wanted: 2, more: { terms: "quadratic" } },
  { what: "four factors, no centre points", numeric: 4, more: { centre: 0 } },
  { what: "four factors, 2 σ", numeric: 4, wanted: 2 },
  { what: "four factors, 0.5 σ", numeric: 4, wanted: 0.5 },
  { what: "five factors, main effects, 2 σ", numeric: 5, wanted: 2, more: { terms: "main" } },
  { what: "five factors, 2 σ", numeric: 5, wanted: 2 },
  { what: "six factors, up to 20 trials", numeric: 6, more: { budget: 20 } },
  { what: "seven factors, main effects, nothing stated", numeric: 7, more: { terms: "main" } },
  { what: "eight factors, 2 σ", numeric: 8, wanted: 2 },
  { what: "eight factors, main effects, 2 σ, up to 20", numeric: 8, wanted: 2, more: { terms: "main", budget: 20 } },
  { what: "two factors and two of two levels", numeric: 2, categories: [2, 2] },
  { what: "two factors and one of three levels, 2 σ", numeric: 2, categories: [3], wanted: 2 },
  { what: "three categories of 2, 3 and 4 levels", numeric: 0, categories: [2, 3, 4], more: { terms: "main" } },
  { what: "four factors, one hard to change", numeric: 4, hard: 1 },
  { what: "five factors, two hard to change, 3 σ", numeric: 5, hard: 2, wanted: 3 },
];

const studyOf = ({ numeric, categories = [], hard = 0, wanted }: Asked): Study =>
  parseStudy({
    format: "trialmoor-study",
    version: 1,
    title: "Which plan",
    factors: [
      ...Array.from({ length: numeric }, (_, i) => ({
        id: `x${i}`,
        kind: "continuous",
        low: 0,
        high: 10,
        ...(i < hard ? { change: "hard" } : {}),
      })),
      ...categories.map((levels, i) => ({
        id: `c${i}`,
        kind: "categorical",
        levels: Array.from({ length: levels }, (_, l) => `level ${l + 1}`),
      })),
    ],
    responses: [{ id: "y", ...(wanted === undefined ? {} : { noise: 1, smallest: wanted }) }],
  });

for (const asked of QUESTIONS) {
  const study = studyOf(asked);
  const request: PlanRequest = {
    ...usualRequest(study),
    ...asked.more,
  };
  const started = performance.now();
  const steps = planSummarySteps(study, request);
  let step = steps.next();
  while (!step.done) step = steps.next();
  const said = ({ summaries }: PlanSummariesStep): string => {
    const first = firstPick(summaries, asked.wanted);
    const picked = defaultPicks(summaries, first).map((id) => summaries.find((s) => s.id === id) as PlanSummary);
    const reading = planReadings(study, request, { summaries, picked, first }).find((r) => r.id === "take-this");
    return `${first?.sound ? "" : "(not all) "}${reading ? messageText("readings", reading) : "nothing"}`;
  };
  console.log(`\n${asked.what}\n  ${said(step.value)}`);
  console.log(`  ${step.value.summaries.length} plans, ${((performance.now() - started) / 1000).toFixed(1)} s`);
  const unseen = step.value.summaries.filter((s) => s.ratio === null).map((s) => s.label);
  if (unseen.length > 0) console.log(`  not in the chart: ${unseen.join("; ")}`);
  for (const r of step.value.refusals) console.log(`    ${r.text}`);
}
