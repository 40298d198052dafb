/** A token bucket: `perSecond` on average, `atOnce` in a burst. Time comes from the caller, in milliseconds. */
export class RateLimit {
  readonly #perSecond: number;
  readonly #atOnce: number;
  #tokens: number;
  #atMs: number;

  constructor(perSecond: number, atOnce: number, atMs: number) {
    this.#perSecond = perSecond;
    this.#atOnce = atOnce;
    this.#tokens = atOnce;
    this.#atMs = atMs;
  }

  /** Whether one more is within the limit. */
  take(atMs: number): boolean {
    const earned = (Math.max(0, atMs - this.#atMs) / 1000) * this.#perSecond;
    this.#tokens = Math.min(this.#atOnce, this.#tokens + earned);
    this.#atMs = atMs;
    if (this.#tokens < 1) return false;
    this.#tokens -= 1;
    return true;
  }
}
