import { tickStep } from "d3-array";

/** A place along a rule with what is predicted there. */
export interface Sample {
  /** Place on the screen. */
  x: number;
  mean: number;
  interval: [number, number] | null;
  extrapolates: boolean;
}

/** A graduation: where the prediction passes a round value. */
export interface Mark {
  x: number;
  value: number;
  major: boolean;
  /** How far the interval of the mean reaches along the rule; 0 where nothing is known of it. */
  blur: number;
}

export interface Graduated {
  marks: Mark[];
  /** Stretches where the prediction keeps its limits, and where it leaves what was run. */
  within: [number, number][];
  beyond: [number, number][];
  /** Values between two marks. */
  step: number;
  /** Nothing changes along the rule. */
  flat: boolean;
}

/** Small marks between two that are labelled. */
const BETWEEN = 5;
/** Labelled marks over the whole span of a response, about. */
const ABOUT = 13;

/** Stretches of x over which a function of the samples is at or above 0, by straight lines between them. */
function stretches(samples: readonly Sample[], value: (s: Sample) => number): [number, number][] {
  const out: [number, number][] = [];
  let from: number | undefined;
  samples.forEach((s, i) => {
    const now = value(s);
    const before = i === 0 ? now : value(samples[i - 1]);
    if (i > 0 && now >= 0 !== before >= 0) {
      const x = samples[i - 1].x + ((s.x - samples[i - 1].x) * before) / (before - now);
      if (now >= 0) from = x;
      else {
        out.push([from ?? samples[0].x, x]);
        from = undefined;
      }
    } else if (now >= 0 && from === undefined) from = s.x;
  });
  if (from !== undefined) out.push([from, samples[samples.length - 1].x]);
  return out;
}

/**
 * Graduates a rule in a response, as a slide rule is: marks stand where the prediction passes round values as one moves
 * along it.
 *
 * @param samples from one end to the other; straight between two
 * @param span of the response over all rules, so that all are graduated alike
 */
export function graduate(
  samples: readonly Sample[],
  span: readonly [number, number],
  limits: { low: number; high: number },
): Graduated {
  const step = tickStep(span[0], span[1], ABOUT);
  const small = step / BETWEEN;
  const means = samples.map((s) => s.mean);
  const flat = Math.max(...means) - Math.min(...means) <= 1e-9 * Math.max(Math.abs(span[1] - span[0]), 1e-300);
  const marks: Mark[] = [];
  if (!flat && small > 0)
    for (let i = 1; i < samples.length; i++) {
      const [a, b] = [samples[i - 1], samples[i]];
      if (a.mean === b.mean) continue;
      const [least, most] = a.mean < b.mean ? [a.mean, b.mean] : [b.mean, a.mean];
      // A value at a sample belongs to the stretch before it, so that it is marked once.
      for (let k = Math.ceil(least / small - 1e-9); k * small <= most + 1e-9 * small; k++) {
        const share = (k * small - a.mean) / (b.mean - a.mean);
        if (i > 1 && share <= 1e-9) continue;
        const slope = Math.abs((b.mean - a.mean) / (b.x - a.x));
        const width =
          a.interval && b.interval ? (b.interval[1] - b.interval[0] + a.interval[1] - a.interval[0]) / 2 : 0;
        marks.push({
          x: a.x + Math.max(0, Math.min(1, share)) * (b.x - a.x),
          value: k === 0 ? 0 : k * small,
          major: k % BETWEEN === 0,
          blur: width / slope,
        });
      }
    }
  return {
    marks,
    within: stretches(samples, (s) => Math.min(s.mean - limits.low, limits.high - s.mean)),
    beyond: stretches(samples, (s) => (s.extrapolates ? 1 : -1)),
    step,
    flat,
  };
}

/** Marks that may be labelled without standing in one another's way, those nearest to a place first. */
export function labelled(marks: readonly Mark[], room: number, near: number): Mark[] {
  const out: Mark[] = [];
  for (const m of [...marks].filter((q) => q.major).sort((a, b) => Math.abs(a.x - near) - Math.abs(b.x - near)))
    if (out.every((o) => Math.abs(o.x - m.x) >= room)) out.push(m);
  return out;
}
