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

  /** Whether one more, or so many, are within the limit; takes them when they are. */
  take(atMs: number, many = 1): boolean {
    if (!this.has(atMs, many)) return false;
    this.#tokens -= many;
    return true;
  }

  /** Whether so many are within the limit. What is more than ever fits is when the bucket is full. */
  has(atMs: number, many = 1): boolean {
    const earned = (Math.max(0, atMs - this.#atMs) / 1000) * this.#perSecond;
    this.#tokens = Math.min(this.#atOnce, this.#tokens + earned);
    this.#atMs = atMs;
    return this.#tokens >= Math.min(many, this.#atOnce);
  }
}
