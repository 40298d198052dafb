import { History, readEvent, SNAPSHOT_VERSION } from "@yellow-harbor/core";
import type { Journal, JournalBatch, JournalRow, Snapshot } from "@yellow-harbor/service";
import { Fault } from "./fault.ts";

interface Write {
  readonly batch: JournalBatch;
  readonly resolve: () => void;
  readonly reject: (error: Error) => void;
}

export type WriteEnd = "kept" | "failed" | "kept-but-failed";

/** A disk: keeps what was written when the simulation says so, and outlives every service that writes to it. */
export class SimDisk {
  readonly rows: JournalRow[] = [];
  snapshot: Snapshot | undefined;
  snapshotsWork = true;
  /** A disk that says it has kept what it has not. Only to see that a simulation finds that out. */
  forgets = false;
  readonly #kept: (row: JournalRow) => void;
  #write: Write | undefined;

  /** `kept` hears of each event once it is durable. */
  constructor(kept: (row: JournalRow) => void) {
    this.#kept = kept;
  }

  get lastSeq(): number {
    return this.rows.at(-1)?.seq ?? 0;
  }

  get isWriting(): boolean {
    return this.#write !== undefined;
  }

  /** How the write under way ends. */
  end(how: WriteEnd): void {
    const write = this.#write;
    if (write === undefined) return;
    this.#write = undefined;
    if (how !== "failed" && !this.forgets) this.#keep(write.batch);
    if (how === "kept") write.resolve();
    else write.reject(new Error("the simulated disk has failed"));
  }

  /** The one who wrote is gone; nobody hears how the write ended. */
  abandon(inFlight: "kept" | "lost"): void {
    if (inFlight === "kept" && this.#write) this.#keep(this.#write.batch);
    this.#write = undefined;
  }

  /** The disk as one service sees it, for as long as that is alive. */
  journalFor(isAlive: () => boolean): Journal {
    const read = async (from: number, limit: number) => this.rows.slice(from - 1, from - 1 + limit);
    const never = () => new Promise<never>(() => undefined);
    return {
      append: (batch, expectedSeq) => (isAlive() ? this.#append(batch, expectedSeq) : never()),
      read,
      newestSnapshot: async () => this.snapshot,
      snapshotAt: async (seq) => this.#snapshotAt(seq),
      writeSnapshot: async (snapshot) => {
        if (isAlive()) this.#writeSnapshot(snapshot);
      },
      trim: async () => 0,
      history: never,
      checkHistory: async () => undefined,
      copyTo: never,
      instanceRecords: async () => [],
      personEvents: never,
      erasePerson: never,
      instanceRecord: async () => undefined,
      close: async () => undefined,
    };
  }

  #append(batch: JournalBatch, expectedSeq: number): Promise<void> {
    if (this.#write) throw new Fault("two-writes", "a batch was handed over while another was being written");
    if (!this.forgets && expectedSeq !== this.lastSeq) {
      throw new Fault("wrong-seq", `a batch was to follow event ${expectedSeq}; the last one is ${this.lastSeq}`);
    }
    return new Promise((resolve, reject) => {
      this.#write = { batch, resolve, reject };
    });
  }

  #keep({ rows }: JournalBatch): void {
    for (const row of rows) {
      this.rows.push(row);
      this.#kept(row);
    }
  }

  /** As the archive makes it: from the snapshot before and the events since. */
  #snapshotAt(seq: number): Snapshot {
    const past = History.from(this.snapshot?.body);
    if (past === undefined) throw new Fault("unreadable-snapshot", `the snapshot of event ${this.snapshot?.seq}`);
    for (const row of this.rows.slice(this.snapshot?.seq ?? 0, seq)) past.replay(readEvent(row), row.atMs);
    return { seq, version: SNAPSHOT_VERSION, body: past.snapshot() };
  }

  #writeSnapshot(snapshot: Snapshot): void {
    if (!this.forgets && snapshot.seq > this.lastSeq) {
      throw new Fault("early-snapshot", `a snapshot of event ${snapshot.seq} before that is durable`);
    }
    if (!this.snapshotsWork) throw new Error("the simulated disk keeps no snapshots");
    this.snapshot = snapshot;
  }
}
