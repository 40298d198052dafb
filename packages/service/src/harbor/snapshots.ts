import { type Harbor, SNAPSHOT_VERSION } from "@yellow-harbor/core";
import type { Logger } from "pino";
import type { Journal, Snapshot } from "../journal/journal.ts";

/**
 * A large state is written less often: one event for each so many characters of the last snapshot. Writing it then costs
 * the same share of the work however many rooms there are, and replaying the longer tail still takes well under a second.
 */
const CHARACTERS_PER_EVENT = 128;

/** Writes a snapshot each so many events, so that a start has only the journal's tail to replay. */
export class SnapshotKeeper {
  readonly #journal: Journal;
  readonly #every: number;
  readonly #log: Pick<Logger, "error">;
  #lastSeq: number;
  #lastLength = 0;

  constructor(journal: Journal, every: number, lastSeq: number, log: Pick<Logger, "error">) {
    this.#journal = journal;
    this.#every = every;
    this.#lastSeq = lastSeq;
    this.#log = log;
  }

  takeIfDue(harbor: Harbor, seq: number): Snapshot | undefined {
    const every = Math.max(this.#every, this.#lastLength / CHARACTERS_PER_EVENT);
    return seq - this.#lastSeq < every ? undefined : this.take(harbor, seq);
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
      await this.#journal.writeSnapshot(snapshot);
    } catch (error) {
      // The journal itself is whole; the next start replays a longer tail.
      this.#log.error({ err: error, seq: snapshot.seq }, "a snapshot could not be written");
    }
  }
}
