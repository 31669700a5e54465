const RATIO = (Math.sqrt(5) - 1) / 2;

/**
 * Place of the highest value of a function with one peak between two ends, by golden section (Kiefer 1953): each step
 * keeps 0.618 of the interval and costs one value.
 *
 * @param within stops when the interval is this short
 * @param most steps at most
 */
export function goldenSection(
  value: (t: number) => number,
  low: number,
  high: number,
  { within, most }: { within: number; most: number },
): number {
  let a = high - RATIO * (high - low);
  let b = low + RATIO * (high - low);
  let atA = value(a);
  let atB = value(b);
  for (let i = 0; i < most && high - low > within; i++) {
    if (atA > atB) {
      high = b;
      b = a;
      atB = atA;
      a = high - RATIO * (high - low);
      atA = value(a);
    } else {
      low = a;
      a = b;
      atA = atB;
      b = low + RATIO * (high - low);
      atB = value(b);
    }
  }
  return (low + high) / 2;
}
