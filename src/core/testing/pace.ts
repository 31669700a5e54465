/** Time of the work below where limits of time were set, in milliseconds. */
const USUAL = 57;

/**
 * A limit of time for what was just done, in milliseconds: longer by as much as this machine is slower just now than
 * where the limit was set, never shorter. Machines that share their processors change their speed by the minute.
 */
export function within(milliseconds: number): number {
  const begun = performance.now();
  let sum = 0;
  for (let i = 1; i < 4e6; i++) sum += Math.sqrt(i) * Math.log(i);
  // Read, so that the work is done at all.
  if (!(sum > 0)) throw new RangeError();
  return milliseconds * Math.max(1, (performance.now() - begun) / USUAL);
}
