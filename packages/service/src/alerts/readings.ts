import type { PoolView, QueueSummary, WebhookView } from "@yellow-harbor/protocol";

/** Counts since the start, of which the difference over a while is looked at. */
export interface Counts {
  readonly commits: number;
  readonly slowCommits: number;
  readonly snapshotFailures: number;
  readonly playersLost: number;
  readonly matchesMade: Readonly<Record<string, number>>;
  readonly matchesUndone: Readonly<Record<string, number>>;
  readonly travels: number;
  readonly travelsFailed: number;
  readonly wrongKeys: number;
  readonly keysInTwoPlaces: number;
}

/** The service at a moment, as far as alerts look at it. */
export interface Readings {
  /** Milliseconds since 1970-01-01T00:00:00Z. */
  readonly atMs: number;
  /** Why nothing is taken, and what to do. */
  readonly halted: { readonly text: string; readonly remedy: string } | undefined;
  readonly journalFault: string | undefined;
  /** Share of the disk that is used; undefined when that cannot be told. */
  readonly diskUsed: number | undefined;
  /** Seconds, p99 since the reading before. */
  readonly loopLagS: number;
  readonly connections: number;
  readonly players: { readonly count: number; readonly limit: number };
  readonly queues: readonly Pick<QueueSummary, "id" | "oldestSinceMs">[];
  readonly pools: readonly Pick<PoolView, "id" | "held" | "max" | "idle" | "failures" | "mode">[];
  readonly machines: readonly { readonly id: string; readonly isThere: boolean; readonly why?: string | undefined }[];
  readonly webhooks: readonly Pick<WebhookView, "name" | "oldestAtMs" | "dead" | "lastFailure">[];
  readonly counts: Counts;
}

const LONGEST_MS = 3_600_000;

/** The readings of the last hour. */
export class ReadingHistory {
  #readings: Readings[] = [];

  add(readings: Readings): void {
    this.#readings.push(readings);
    const first = this.#readings.findIndex(({ atMs }) => readings.atMs - atMs <= LONGEST_MS);
    // The last one before stays: it is what the hour is counted from.
    if (first > 1) this.#readings = this.#readings.slice(first - 1);
  }

  /** What was counted in the last `ms`, or since the first reading. */
  countedIn<T>(ms: number, now: Readings, difference: (now: Counts, then: Counts) => T): T {
    const then = this.#readings.findLast(({ atMs }) => now.atMs - atMs >= ms) ?? this.#readings[0] ?? now;
    return difference(now.counts, then.counts);
  }
}
