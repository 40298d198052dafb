import { networkOf } from "@yellow-harbor/reach";
import type { Logger } from "pino";
import { type Audit, NOBODY } from "./audit.ts";

/** Holders that are remembered. */
const KNOWN_MAX = 10_000;
/** Who is back at the address it came from before within so long never left it: two hold the key. */
const BACK_WITHIN_MS = 60_000;
/** Of one holder so often one is written down. */
const NOTE_EVERY_MS = 600_000;

interface Known {
  at: string;
  /** Where it came from before that, and when last. */
  former: { readonly at: string; readonly lastMs: number } | undefined;
  lastMs: number;
  notedAtMs: number;
}

export interface InTwoPlaces {
  /** Whose key it is: the id of an instance, or the name of a machine. */
  readonly holder: string;
  readonly from: [string, string];
  readonly atMs: number;
}

/** Writes it down where operators look. */
export function noteTwoPlaces(
  { holder, from }: InTwoPlaces,
  { log, audit }: { readonly log: Pick<Logger, "warn">; readonly audit: Pick<Audit, "add"> },
): void {
  log.warn({ holder, from }, "a key is used from two places");
  const action = "key-in-two-places";
  void audit.add({ actor: NOBODY, from: from.join(" "), action, target: holder, result: "seen" });
}

/**
 * Notices a key or token that is used from two addresses in turns, as a stolen one is. One that moves once, from one address
 * to another, is not counted.
 */
export class TwoPlaces {
  readonly #known = new Map<string, Known>();
  readonly #note: (found: InTwoPlaces) => void;
  readonly #now: () => number;
  /** How often it was noticed; of one holder every ten minutes at the most. */
  count = 0;
  last: InTwoPlaces | undefined;

  constructor(note: (found: InTwoPlaces) => void, now: () => number = Date.now) {
    this.#note = note;
    this.#now = now;
  }

  seen(holder: string, from: string): void {
    const known = this.#known.get(holder);
    const now = this.#now();
    if (known === undefined) return this.#begin(holder, { at: from, former: undefined, lastMs: now });
    if (known.at !== from) this.#moved(holder, known, from);
    known.lastMs = now;
  }

  #begin(holder: string, known: Omit<Known, "notedAtMs">): void {
    const [oldest] = this.#known.keys();
    if (this.#known.size >= KNOWN_MAX && oldest !== undefined) this.#known.delete(oldest);
    this.#known.set(holder, { ...known, notedAtMs: Number.NEGATIVE_INFINITY });
  }

  #moved(holder: string, known: Known, from: string): void {
    const { at, former, lastMs, notedAtMs } = known;
    const now = this.#now();
    known.at = from;
    known.former = { at, lastMs };
    // Addresses of one network are one place: a computer may use several of them.
    const isBack = former !== undefined && former.at === from && now - former.lastMs < BACK_WITHIN_MS;
    if (!isBack || networkOf(at) === networkOf(from) || now - notedAtMs < NOTE_EVERY_MS) return;
    known.notedAtMs = now;
    this.count += 1;
    this.last = { holder, from: [at, from], atMs: now };
    this.#note(this.last);
  }
}
