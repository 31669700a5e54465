import type { KindPlanning } from "../planning";

export const countPlanning: KindPlanning = {
  whole: false,
  extraOf: ({ of, base, excess }) => Math.max(0, (excess - 1) / (of * base)),
  excessAt: (plan, of) => (plan.excess <= 1 ? plan.excess : 1 + of * plan.base * countPlanning.extraOf(plan)),
  halfChange: (base, change) => Math.asinh(change / (2 * base)),
  edgeChange: (base, change) => Math.log1p(change / base),
  mostChange: (base) => 1e3 * base,
  varianceAt(plan, of, from) {
    const excess = countPlanning.excessAt(plan, of);
    const counting = 1 / (of * plan.base * Math.exp(from));
    // Of counts the scatter beyond counting is a share of the rate itself, the same at every rate.
    return excess <= 1 ? excess * counting : counting + (excess - 1) / (of * plan.base);
  },
};
