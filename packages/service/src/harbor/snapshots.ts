import { type Harbor, SNAPSHOT_VERSION } from "@yellow-harbor/core";
import type { Logger } from "pino";
import type { Journal, Snapshot } from "../journal/journal.ts";

/**
 * A large state is written less often: one event for each so many characters of the last snapshot. Writing it then costs
 * the same share of the work however many rooms there are, and replaying the longer tail still takes well under a second.
 */
const CHARACTERS_PER_EVENT = 128;
/** So many events are removed at a time: what waits to be appended goes in between. */
const TRIMMED_AT_ONCE = 5_000;

export interface SnapshotPolicy {
  /** Fewest events between two snapshots. */
  readonly every: number;
  /** How many of the newest events are kept when older ones are trimmed away. */
  readonly keepEvents: number;
}

/** Writes a snapshot each so many events, so that a start has only the journal's tail to replay; then trims the journal. */
export class SnapshotKeeper {
  readonly #journal: Journal;
  readonly #policy: SnapshotPolicy;
  readonly #log: Pick<Logger, "error">;
  #lastSeq: number;
  #lastLength = 0;
  #isTrimming = false;

  constructor(journal: Journal, policy: SnapshotPolicy, lastSeq: number, log: Pick<Logger, "error">) {
    this.#journal = journal;
    this.#policy = policy;
    this.#lastSeq = lastSeq;
    this.#log = log;
  }

  get #spacing(): number {
    return Math.max(this.#policy.every, Math.floor(this.#lastLength / CHARACTERS_PER_EVENT));
  }

  takeIfDue(harbor: Harbor, seq: number): Snapshot | undefined {
    return seq - this.#lastSeq < this.#spacing ? undefined : this.take(harbor, seq);
  }

  take(harbor: Harbor, seq: number): Snapshot {
    this.#lastSeq = seq;
    const body = harbor.snapshot();
    this.#lastLength = body.length;
    return { seq, version: SNAPSHOT_VERSION, body };
  }

  /** Only once the events up to the snapshot are durable. */
  async keep(snapshot: Snapshot): Promise<void> {
    try {
      await this.#journal.writeSnapshot(snapshot, this.#spacing);
      await this.#trim();
    } catch (error) {
      // The journal itself is whole; the next start replays a longer tail.
      this.#log.error({ err: error, seq: snapshot.seq }, "a snapshot could not be written");
    }
  }

  async #trim(): Promise<void> {
    if (this.#isTrimming) return;
    this.#isTrimming = true;
    try {
      while ((await this.#journal.trim(this.#policy.keepEvents, SNAPSHOT_VERSION, TRIMMED_AT_ONCE)) > 0);
    } finally {
      this.#isTrimming = false;
    }
  }
}
