import { SNAPSHOT_VERSION } from "@yellow-harbor/core";
import type { Logger } from "pino";
import type { EventLog } from "../journal/event-log.ts";
import type { HarborHistory } from "../journal/harbor-history.ts";
import type { Snapshots } from "../journal/snapshots.ts";
import type { RuntimeMeter } from "./meter.ts";

/**
 * A large state is written less often: one event for each so many characters of the last snapshot. Writing it then costs
 * the same share of the work however many rooms there are, and replaying the longer tail still takes well under a second.
 */
const CHARACTERS_PER_EVENT = 128;
/** So many events are removed at a time: what waits to be appended goes in between. */
const TRIMMED_AT_ONCE = 5_000;

export interface SnapshotPolicy {
  /** Minimum of events between two snapshots. */
  readonly every: number;
  /** How many of the newest events are kept when older ones are trimmed away. */
  readonly keepEvents: number;
  /** Bytes of the journal beyond which older ones go although they are fewer. */
  readonly keepBytes: number;
}

/** Where snapshots come from and go to, and what is trimmed after them. */
export interface SnapshotPorts {
  readonly eventLog: Pick<EventLog, "trim">;
  readonly snapshots: Pick<Snapshots, "put">;
  readonly history: Pick<HarborHistory, "snapshotAt">;
}

/** Who hears of what becomes of them. */
interface SnapshotsWatched {
  readonly log: Pick<Logger, "error">;
  readonly meter: Pick<RuntimeMeter, "snapshot">;
}

/**
 * Has a snapshot made each so many events, so that a start has only the journal's tail to replay; then trims the journal.
 * Snapshots are made from what is durable and in a thread of their own: writing down the state here would hold up everybody.
 */
export class SnapshotKeeper {
  readonly #ports: SnapshotPorts;
  readonly #policy: SnapshotPolicy;
  readonly #watched: SnapshotsWatched;
  #lastSeq: number;
  #lastLength = 0;
  #making: Promise<void> = Promise.resolve();

  constructor(ports: SnapshotPorts, policy: SnapshotPolicy, lastSeq: number, watched: SnapshotsWatched) {
    this.#ports = ports;
    this.#policy = policy;
    this.#lastSeq = lastSeq;
    this.#watched = watched;
  }

  get #spacing(): number {
    return Math.max(this.#policy.every, Math.floor(this.#lastLength / CHARACTERS_PER_EVENT));
  }

  /** Events up to the newest durable one that are in no snapshot which was made, or is being made. */
  behind(durableSeq: number): number {
    return durableSeq - this.#lastSeq;
  }

  /** Has a snapshot made when one is due; `durableSeq` is the number of the newest durable event. */
  consider(durableSeq: number): void {
    if (durableSeq - this.#lastSeq >= this.#spacing) void this.make(durableSeq);
  }

  /** Resolves when no snapshot is being made; one that was due is made first. */
  settle(durableSeq: number): Promise<void> {
    this.consider(durableSeq);
    return this.#making;
  }

  /** Has a snapshot made of everything up to an event, beside the work that goes on, and keeps it. */
  make(seq: number): Promise<void> {
    if (seq <= this.#lastSeq) return this.#making;
    this.#lastSeq = seq;
    this.#making = this.#making.then(() => this.#make(seq));
    return this.#making;
  }

  /** Does something while no snapshot is being made: one that was read before and written after would bring back what it changes. */
  between<T>(work: () => Promise<T>): Promise<T> {
    const done = this.#making.then(work);
    this.#making = done.then(
      () => undefined,
      () => undefined,
    );
    return done;
  }

  async #make(seq: number): Promise<void> {
    try {
      const snapshot = await this.#ports.history.snapshotAt(seq);
      this.#lastLength = snapshot.body.length;
      await this.#ports.snapshots.put(snapshot, this.#spacing);
      this.#watched.meter.snapshot(true);
      await this.#trim();
    } catch (error) {
      // The journal itself is whole; the next start replays a longer tail.
      this.#watched.log.error({ err: error, seq }, "a snapshot could not be written");
      this.#watched.meter.snapshot(false);
    }
  }

  async #trim(): Promise<void> {
    const keep = { events: this.#policy.keepEvents, bytes: this.#policy.keepBytes };
    while ((await this.#ports.eventLog.trim(keep, SNAPSHOT_VERSION, TRIMMED_AT_ONCE)) > 0);
  }
}
