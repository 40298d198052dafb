/** When the runtime's work is done. The event loop in the service; a simulation's own in a simulation. */
export interface Scheduler {
  /** After all that this turn still brings. */
  readonly soon: (run: () => void) => void;
  /** After so many milliseconds; returns what calls it off. */
  readonly later: (run: () => void, delayMs: number) => () => void;
}

export const eventLoop: Scheduler = {
  soon: (run) => void setImmediate(run),
  later: (run, delayMs) => {
    const timer = setTimeout(run, delayMs);
    return () => clearTimeout(timer);
  },
};
