import type { Response, Result, Study, Trial } from "./schema";

/** What there is of a plan that costs something. */
export interface Counted {
  trials: number;
  setups?: number;
  /** Pieces, or units of exposure, of all trials together. */
  pieces?: number;
  waves?: number;
}

/** What each of these costs. */
export interface Prices {
  /** Hours or money as the study states them; undefined where costs are counted in trials. */
  unit: string | undefined;
  trial: number;
  setup: number;
  piece: number;
  wave: number;
}

/** Prices as a study states them: in its own unit, or else in trials, a set-up at what it costs beside one. */
export function pricesOf({ costs, setupCost = 0 }: Pick<Study, "costs" | "setupCost">): Prices {
  const { unit = "", trial, setup, piece, wave } = costs ?? {};
  if ([trial, setup, piece, wave].every((c) => c === undefined))
    return { unit: undefined, trial: 1, setup: setupCost, piece: 0, wave: 0 };
  return { unit, trial: trial ?? 0, setup: setup ?? setupCost * (trial ?? 0), piece: piece ?? 0, wave: wave ?? 0 };
}

/** What so much of a plan costs by these prices. */
export const costBy = (prices: Prices, { trials, setups = 0, pieces = 0, waves = 0 }: Counted): number =>
  prices.trial * trials + prices.setup * setups + prices.piece * pieces + prices.wave * waves;

/** Pieces, or exposure, that a result is of; a value measured several times has none. */
function piecesOf({ several }: Response, result: Result | undefined): number {
  if (Array.isArray(result)) return several === "units" ? result.filter((v) => v !== null).length : 0;
  return typeof result === "object" && result !== null ? result.of : 0;
}

/** What the trials of a wave that were run have cost; a piece measured in several ways is one piece. */
export function spentOn(study: Study, wave: string): number {
  const ran = study.trials.filter((t: Trial) => t.wave === wave && (t.state === "done" || t.state === "failed"));
  const pieces = (t: Trial): number => Math.max(0, ...study.responses.map((r) => piecesOf(r, t.results[r.id])));
  return costBy(pricesOf(study), {
    trials: ran.length,
    setups: new Set(ran.flatMap((t) => t.setup ?? [])).size,
    pieces: ran.reduce((sum, t) => sum + pieces(t), 0),
    waves: ran.length > 0 ? 1 : 0,
  });
}
