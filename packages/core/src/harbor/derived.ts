import { WaitingIndex } from "../queues/waiting-index.ts";

/**
 * What a harbor works out of its state so as not to work it out again. It holds no truth: it is in no snapshot and no
 * event, begins empty, and a harbor without it would decide the same.
 */
export interface Derived {
  readonly waiting: WaitingIndex;
}

export const newDerived = (): Derived => ({ waiting: new WaitingIndex() });
