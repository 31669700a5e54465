import { noncentralTCdf } from "../numerics/distributions";
import { seededRandom } from "../numerics/random";

/** What Ppk is told from: units of one trial, or of several whose means vary by more than their units explain. */
export interface Sampled {
  /** Trials, and units that each has (harmonic mean). */
  trials: number;
  each: number;
  mean: number;
  /** Mean square of trial means, with its degrees of freedom; of one trial none. */
  means: { square: number; df: number };
  /** Units within their trials. */
  within: { ss: number; df: number };
}

/** Draws that a generalised interval is told from. */
const DRAWS = 4000;

/**
 * Where Ppk lies by one trial's units and one limit, exactly: √n·3·Ppk is the noncentrality of a t that was observed
 * (Kushler & Hurley 1992).
 */
function exactInterval(ppk: number, n: number, half: number): [number, number] {
  const t = 3 * ppk * Math.sqrt(n);
  /** Noncentrality at which so much lies at or below what was observed: it falls as the noncentrality rises. */
  const at = (wanted: number): number => {
    let low = t - 10 - 4 * Math.abs(t);
    let high = t + 10 + 4 * Math.abs(t);
    for (let i = 0; i < 80; i++) {
      const middle = (low + high) / 2;
      if (noncentralTCdf(t, n - 1, middle) > wanted) low = middle;
      else high = middle;
    }
    return (low + high) / 2 / (3 * Math.sqrt(n));
  };
  return [at(1 - half), at(half)];
}

/**
 * Interval of Ppk: exact for one trial's units and one limit; else generalised (Krishnamoorthy & Mathew 2009), by draws
 * of the mean and both variances, each as the trials leave it open. With two limits the lower end is that of the nearer
 * of both in every draw, the upper the smaller of the two limits' own: the nearer of two is drawn too near, which would
 * leave the upper end too low.
 */
export function ppkInterval(
  s: Sampled,
  { low, high }: { low: number; high: number },
  ppk: number,
  confidence: number,
): [number, number] {
  const half = (1 - confidence) / 2;
  const one = s.trials === 1;
  if (one && !(Number.isFinite(low) && Number.isFinite(high))) return exactInterval(ppk, s.within.df + 1, half);
  const random = seededRandom(1);
  const both = new Float64Array(DRAWS);
  const below = new Float64Array(DRAWS);
  const above = new Float64Array(DRAWS);
  for (let d = 0; d < DRAWS; d++) {
    // Trials of one unit each are one sample: all that varies, varies between them.
    const within = s.within.df > 0 ? s.within.ss / random.chiSquared(s.within.df) : 0;
    const ofMeans = one ? within / s.each : (s.means.df * s.means.square) / random.chiSquared(s.means.df);
    const between = one ? 0 : Math.max(0, ofMeans - within / s.each);
    const mean = s.mean + Math.sqrt(Math.max(ofMeans, within / s.each) / s.trials) * random.normal();
    const unit = 3 * Math.sqrt(between + within);
    below[d] = (mean - low) / unit;
    above[d] = (high - mean) / unit;
    both[d] = Math.min(below[d], above[d]);
  }
  const at = (values: Float64Array, share: number): number =>
    values.sort()[Math.min(DRAWS - 1, Math.max(0, Math.round(share * DRAWS - 0.5)))];
  return [at(both, half), Math.min(at(below, 1 - half), at(above, 1 - half))];
}
