/** Where time is read. Tests and simulations put clocks of their own in its place. */
export interface TimeSources {
  /** Milliseconds since 1970-01-01T00:00:00Z, as the computer has it. May be set forward and back at any moment. */
  readonly wallMs: () => number;
  /** Milliseconds since some moment; never set, and goes on at the pace of time. */
  readonly steadyMs: () => number;
}

const systemTime: TimeSources = { wallMs: Date.now, steadyMs: () => performance.now() };

/** Milliseconds since the process began, whatever happens to the wall clock: for silence, rates and patience. */
export const steadyMs = (): number => performance.now();

/** At most so much faster or slower than time itself, while it comes near the wall clock again. */
const CATCHING_UP = 0.5;

/**
 * The harbor's time. It starts with the wall clock, but not before `fromMs`, the time of the last event of the journal.
 * From there it goes on steadily: when the wall clock is set forward or back it follows at no more than half its pace,
 * so that nobody's grace ends with a jump, and none lasts for hours. It never runs back.
 */
export function harborClock(fromMs = 0, { wallMs, steadyMs }: TimeSources = systemTime): () => number {
  let at = Math.max(wallMs(), fromMs);
  let read = steadyMs();
  return () => {
    const steady = steadyMs();
    const elapsed = steady - read;
    read = steady;
    const behind = wallMs() - (at + elapsed);
    const max = elapsed * CATCHING_UP;
    at += elapsed + Math.min(max, Math.max(-max, behind));
    return Math.floor(at);
  };
}
