/** How long whoever is cut off waits before each next attempt. */
export interface BackOff {
  /** First pause, in milliseconds. */
  readonly firstMs: number;
  /** Longest pause, in milliseconds. */
  readonly maxMs: number;
}

/** Pause before attempt `attempt` (from 1): doubling, with jitter, so that many who were cut off do not come back at once. */
export function pauseMs(attempt: number, { firstMs, maxMs }: BackOff, chance: () => number): number {
  const ceiling = Math.min(maxMs, firstMs * 2 ** (attempt - 1));
  return Math.round(ceiling * (0.25 + 0.75 * chance()));
}
