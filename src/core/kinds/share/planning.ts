import type { KindPlanning } from "../planning";

const logit = (share: number): number => Math.log(share / (1 - share));

export const sharePlanning: KindPlanning = {
  whole: true,
  extraOf: ({ of, excess }) => (of > 1 ? Math.max(0, (excess - 1) / (of - 1)) : 0),
  excessAt: (plan, of) => (plan.excess <= 1 ? plan.excess : 1 + (of - 1) * sharePlanning.extraOf(plan)),
  halfChange(base, change) {
    // sinh u/(cosh u + cosh η₀) = Δ.
    const middle = Math.cosh(logit(base));
    let low = 0;
    let high = 40;
    for (let i = 0; i < 100; i++) {
      const u = (low + high) / 2;
      if (Math.sinh(u) / (Math.cosh(u) + middle) < change) low = u;
      else high = u;
    }
    return (low + high) / 2;
  },
  edgeChange(base, change) {
    const far = Math.min(change, 0.999 * Math.max(base, 1 - base));
    return base + far < 1 ? logit(base + far) - logit(base) : logit(base - far) - logit(base);
  },
  mostChange: () => 0.999,
  varianceAt: (plan, of, from) =>
    (sharePlanning.excessAt(plan, of) * (2 + 2 * Math.cosh(logit(plan.base) + from))) / of,
};
