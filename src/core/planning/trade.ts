import { appraisePoints } from "../appraisal/appraise";
import { pointsOfPlan } from "../appraisal/terms-info";
import { families } from "../plans/families";
import { planSteps } from "../plans/make-plan";
import type { PlanOptions } from "../plans/options";
import type { PlanProgress } from "../plans/plan";
import type { Study } from "../study/schema";
import { requestedTerms } from "./plan-summary";

/** One point of the trade between sharpness and aliasing. */
export interface TradePoint {
  keep: number;
  /** D-efficiency reached, %. */
  d: number | null;
  /** trace(A′A) against the possible terms. */
  trace: number;
  options: PlanOptions;
}

const SHARES = [1, 0.97, 0.94, 0.9, 0.85, 0.8, 0.7];

const TRADE_STARTS = 6;

/** The family whose plans trade sharpness for less aliasing. */
const TRADING = families.find((f) => f.trades)?.id ?? "";

/**
 * The least alias trace at several shares of the best D-efficiency, each point joining as it is found: the plan as it
 * was asked for first, then each share in turn. Every plan found serves all shares below its own.
 */
export function* tradeSteps(
  study: Study,
  options: PlanOptions,
): Generator<PlanProgress & { points: TradePoint[] }, TradePoint[], boolean | undefined> {
  const points: TradePoint[] = [];
  const terms = requestedTerms(study, { terms: options.terms ?? "main" });
  const shares = [...new Set([options.keepEfficiency as number | undefined, ...SHARES])].flatMap((k) => k ?? []);
  for (const [i, keep] of shares.entries()) {
    const asked: PlanOptions = {
      ...options,
      family: TRADING,
      keepEfficiency: keep,
      // The plan as it was asked for is searched as it was then, so that the shown plan is among them.
      ...(keep === options.keepEfficiency ? {} : { starts: options.starts ?? TRADE_STARTS }),
    };
    const steps = planSteps(study, asked);
    let made = steps.next();
    let stopped = false;
    while (!made.done) {
      const stop = yield {
        done: (i + made.value.done) / shares.length,
        text: `keeping ${Math.round(100 * keep)} %: ${made.value.text}`,
        points,
      };
      stopped = stopped || stop === true;
      made = steps.next(stop);
    }
    const a = appraisePoints(study, pointsOfPlan(made.value), { terms });
    points.push({ keep, d: a.efficiency.d, trace: a.alias.trace, options: asked });
    if (stopped) break;
  }
  return points;
}
