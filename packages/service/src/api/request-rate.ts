import { RateLimit } from "../front-door/rate-limit.ts";

/** Callers that are remembered; those that have not asked for longest are forgotten first. */
const KNOWN_MAX = 10_000;

/** How many requests each key, session or address may make. */
export class RequestRate {
  readonly #perSecond: number;
  readonly #known = new Map<string, RateLimit>();

  /** On average; twice as many at once. */
  constructor(perSecond: number) {
    this.#perSecond = perSecond;
  }

  take(caller: string, nowMs: number): boolean {
    const limit = this.#known.get(caller) ?? new RateLimit(this.#perSecond, 2 * this.#perSecond, nowMs);
    this.#known.delete(caller);
    this.#known.set(caller, limit);
    const [oldest] = this.#known.keys();
    if (this.#known.size > KNOWN_MAX && oldest !== undefined) this.#known.delete(oldest);
    return limit.take(nowMs);
  }
}
