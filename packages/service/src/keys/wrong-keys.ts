import { networkOf } from "@yellow-harbor/reach";
import { RateLimit } from "../front-door/rate-limit.ts";

/** Wrong keys that are answered at once from one address, and how many more each second. */
const AT_ONCE = 10;
const PER_SECOND = 0.1;
/** Addresses that are remembered. */
const KNOWN_MAX = 10_000;
/** Of one address so often one is written down. */
const NOTE_EVERY_MS = 60_000;

interface Known {
  readonly limit: RateLimit;
  notedAtMs: number;
}

/** Counts the wrong keys of each address: a right one is always let in, wrong ones are slowed down. */
export class WrongKeys {
  readonly #known = new Map<string, Known>();
  readonly #note: (from: string) => void;
  readonly #now: () => number;
  count = 0;
  last: { readonly from: string; readonly atMs: number } | undefined;

  /** `note` hears of an address that shows wrong ones, once a minute at the most. */
  constructor(note: (from: string) => void, now: () => number = Date.now) {
    this.#note = note;
    this.#now = now;
  }

  /** Takes one more. Whether its address has shown too many. */
  isTooMany(from: string): boolean {
    const now = this.#now();
    this.count += 1;
    this.last = { from, atMs: now };
    const network = networkOf(from);
    const known = this.#known.get(network) ?? {
      limit: new RateLimit(PER_SECOND, AT_ONCE, now),
      notedAtMs: Number.NEGATIVE_INFINITY,
    };
    // The last to come stands last, so that the first is the one to forget.
    this.#known.delete(network);
    this.#known.set(network, known);
    const [oldest] = this.#known.keys();
    if (this.#known.size > KNOWN_MAX && oldest !== undefined) this.#known.delete(oldest);
    if (now - known.notedAtMs >= NOTE_EVERY_MS) {
      known.notedAtMs = now;
      this.#note(from);
    }
    return !known.limit.take(now);
  }
}
