/**
 * Time that only goes forward, whatever a person or the network sets the computer's clock to, in milliseconds since
 * this process began. What lasts a while is measured by it; the clock tells only when something was.
 */
export const clock = { now: (): number => performance.now() };
