/** A token bucket: `perSecond` on average, twice as many at once. Time comes from the caller, in milliseconds. */
export class RateLimit {
  readonly #perSecond: number;
  #tokens: number;
  #atMs: number;

  constructor(perSecond: number, atMs: number) {
    this.#perSecond = perSecond;
    this.#tokens = perSecond * 2;
    this.#atMs = atMs;
  }

  /** Whether one more is within the limit. */
  take(atMs: number): boolean {
    const earned = (Math.max(0, atMs - this.#atMs) / 1000) * this.#perSecond;
    this.#tokens = Math.min(this.#perSecond * 2, this.#tokens + earned);
    this.#atMs = atMs;
    if (this.#tokens < 1) return false;
    this.#tokens -= 1;
    return true;
  }
}
