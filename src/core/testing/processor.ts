/**
 * Seconds of processor time that some work takes this process, however long it had to wait for a processor: what must
 * end in bounded time is held to this, never to a clock.
 */
export function processorSeconds(work: () => void): number {
  const before = process.cpuUsage();
  work();
  const { user, system } = process.cpuUsage(before);
  return (user + system) / 1e6;
}
