/** Where a thread is told to stop, and where it says that it looks there. */
export const STOP = 0;
export const LISTENS = 1;

/** What a computation in a thread is stopped by. */
export const stopSign = (): Int32Array<SharedArrayBuffer> => new Int32Array(new SharedArrayBuffer(8));
