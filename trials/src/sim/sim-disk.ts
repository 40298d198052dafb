import { History, readEvent, SNAPSHOT_VERSION } from "@yellow-harbor/core";
import {
  type EventLog,
  type Found,
  type HarborHistory,
  type JournalBatch,
  type JournalRow,
  loadRuntime,
  type Snapshot,
  type Snapshots,
} from "@yellow-harbor/service";
import { Fault } from "./fault.ts";

const { LogRejection } = await loadRuntime();

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
  #epoch = 0;
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
    else write.reject(new LogRejection("away", "the simulated disk has failed"));
  }

  /** The one who wrote is gone; nobody hears how the write ended. */
  abandon(inFlight: "kept" | "lost"): void {
    if (inFlight === "kept" && this.#write) this.#keep(this.#write.batch);
    this.#write = undefined;
  }

  /** Opens the disk for one service, for as long as that is alive: whoever opened it before can append nothing any more. */
  open(isAlive: () => boolean): Found {
    this.#epoch += 1;
    const epoch = this.#epoch;
    const eventLog: EventLog = {
      epoch,
      append: (batch, expectedSeq) => (isAlive() ? this.#append(batch, expectedSeq, epoch) : never()),
      read: async (from, limit) => this.rows.slice(from - 1, from - 1 + limit),
      trim: async () => 0,
    };
    const lastAtMs = this.rows.at(-1)?.atMs ?? 0;
    return { eventLog, lastSeq: this.lastSeq, lastAtMs, snapshot: Promise.resolve(this.snapshot) };
  }

  snapshotsFor(isAlive: () => boolean): Snapshots {
    return {
      newest: async () => this.snapshot,
      put: async (snapshot) => {
        if (isAlive()) this.#writeSnapshot(snapshot);
      },
    };
  }

  readonly history: Pick<HarborHistory, "snapshotAt"> = { snapshotAt: async (seq) => this.#snapshotAt(seq) };

  #append(batch: JournalBatch, expectedSeq: number, epoch: number): Promise<void> {
    if (epoch !== this.#epoch) return Promise.reject(new LogRejection("fenced", `epoch ${this.#epoch} was opened`));
    if (this.#write) throw new Fault("two-writes", "a batch was handed over while another was being written");
    if (!this.forgets && expectedSeq !== this.lastSeq) {
      const fault = new Fault(
        "wrong-seq",
        `a batch was to follow event ${expectedSeq}; the last one is ${this.lastSeq}`,
      );
      return Promise.reject(new LogRejection("fenced", fault.message, { cause: fault }));
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

  /** As the history makes it: from the snapshot before and the events since. */
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

const never = () => new Promise<never>(() => undefined);
