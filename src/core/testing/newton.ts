import { determinant, dot, gram, solve } from "./elimination";

// Counted results fitted a second time: plain Newton steps on plain arrays, with elimination, which share nothing with
// the laws of the core.

/** Shares by logit with weights 1/(1 + (n − 1)ρ), or counts by the logarithm with variance μ + κμ². */
export interface Counts {
  kind: "share" | "count";
  events: readonly number[];
  of: readonly number[];
  /** ρ or κ. */
  extra?: number;
}

export interface Maximised {
  b: number[];
  deviance: number;
  /** Less ln|X′WX| of all columns where it is penalised. */
  criterion: number;
  pearson: number;
  /** Pearson's over its degrees of freedom, by Fletcher's (2012) correction. */
  dispersion: number;
  information: number[][];
}

const xlog = (a: number, b: number): number => (a === 0 ? 0 : a * Math.log(a / b));

/** Each trial's weight, slope, deviance, turn of the weight and skew at a linear predictor. */
function trial({ kind, events, of, extra = 0 }: Counts, i: number, eta: number) {
  const [y, n] = [events[i], of[i]];
  if (kind === "share") {
    const w = 1 / (1 + (n - 1) * extra);
    const p = 1 / (1 + Math.exp(-eta));
    return {
      weight: w * n * p * (1 - p),
      slope: w * (y - n * p),
      deviance: 2 * w * (xlog(y, n * p) + xlog(n - y, n * (1 - p))),
      turn: 1 - 2 * p,
      skew: ((1 - 2 * p) * (y / n - p)) / (p * (1 - p)),
    };
  }
  const mu = n * Math.exp(eta);
  const wide = 1 + extra * mu;
  return {
    weight: mu / wide,
    slope: (y - mu) / wide,
    deviance:
      2 * (xlog(y, mu) - (extra === 0 ? y - mu : (y + 1 / extra) * Math.log((1 + extra * y) / (1 + extra * mu)))),
    turn: 1 / wide,
    skew: ((1 + 2 * extra * mu) * (y - mu)) / (mu + extra * mu * mu),
  };
}

/**
 * The largest (penalised, Firth 1993) likelihood with some coefficients held at given values.
 *
 * @param held coefficients that stay, by column
 */
export function maximise(
  counts: Counts,
  x: readonly (readonly number[])[],
  { firth = false, held = {} }: { firth?: boolean; held?: Record<number, number> } = {},
): Maximised {
  const p = x[0].length;
  const free = Array.from({ length: p }, (_, j) => j).filter((j) => held[j] === undefined);
  const b = Array.from({ length: p }, (_, j) => held[j] ?? 0);
  const all = counts.events.reduce((t, v) => t + v, 0) / counts.of.reduce((t, v) => t + v, 0);
  if (held[0] === undefined) b[0] = counts.kind === "share" ? Math.log(all / (1 - all)) : Math.log(all);
  const at = () => {
    const parts = x.map((row, i) => trial(counts, i, dot(row, b)));
    const rows = x.map((row, i) => row.map((v) => v * Math.sqrt(parts[i].weight)));
    return { parts, information: gram(rows) };
  };
  for (let round = 0; round < 500; round++) {
    const { parts, information } = at();
    const slopes = parts.map(({ slope, weight, turn }, i) => {
      const h = firth ? weight * dot(x[i], solve(information, x[i])) : 0;
      return slope + 0.5 * h * turn;
    });
    const step = solve(
      free.map((j) => free.map((k) => information[j][k])),
      free.map((j) =>
        dot(
          slopes,
          x.map((row) => row[j]),
        ),
      ),
    );
    const size = Math.max(...step.map(Math.abs));
    free.forEach((j, k) => {
      b[j] += (size > 2 ? 2 / size : 1) * step[k];
    });
    if (size < 1e-14) break;
  }
  const { parts, information } = at();
  const deviance = parts.reduce((t, v) => t + v.deviance, 0);
  const pearson = parts.reduce((t, v) => t + v.slope ** 2 / v.weight, 0);
  const skew = parts.reduce((t, v) => t + v.skew, 0) / x.length;
  return {
    b,
    deviance,
    criterion: firth ? deviance - Math.log(determinant(information)) : deviance,
    pearson,
    dispersion: pearson / (x.length - p) / (1 + skew),
    information,
  };
}
