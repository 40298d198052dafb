export interface Backoff {
  /** First pause, in milliseconds. */
  readonly firstMs: number;
  /** Longest pause, in milliseconds. */
  readonly mostMs: number;
  /** How many attempts before the connection is given up. */
  readonly attempts: number;
}

/** Pause before attempt `attempt` (from 1): doubling, with full jitter, so that many clients do not come back at once. */
export function pauseMs(attempt: number, { firstMs, mostMs }: Backoff, chance: () => number): number {
  const ceiling = Math.min(mostMs, firstMs * 2 ** (attempt - 1));
  return Math.round(ceiling * (0.25 + 0.75 * chance()));
}
