import { type EventLog, type JournalBatch, LogRejection } from "../journal/event-log.ts";
import type { Snapshot } from "../journal/snapshots.ts";

/** A journal whose appends finish when the test says so. */
export class HeldJournal implements EventLog {
  readonly epoch = 1;
  readonly batches: JournalBatch[] = [];
  readonly snapshots: number[] = [];
  readonly #open: { resolve: () => void; reject: (error: Error) => void }[] = [];
  #arrived: (() => void) | undefined;

  append(batch: JournalBatch): Promise<void> {
    this.batches.push(batch);
    const done = new Promise<void>((resolve, reject) => this.#open.push({ resolve, reject }));
    this.#arrived?.();
    return done;
  }

  async put({ seq }: { seq: number }): Promise<void> {
    this.snapshots.push(seq);
  }

  async newest(): Promise<undefined> {
    return undefined;
  }

  async read(): Promise<never[]> {
    return [];
  }

  async snapshotAt(seq: number): Promise<Snapshot> {
    return { seq, version: 1, body: "the state" };
  }

  async trim(): Promise<number> {
    return 0;
  }

  /** Resolves once so many batches have been handed over. */
  async until(count: number): Promise<void> {
    while (this.batches.length < count) {
      await new Promise<void>((resolve) => {
        this.#arrived = resolve;
      });
    }
  }

  finish(): void {
    this.#open.shift()?.resolve();
  }

  fail(code: "away" | "fenced", message: string): void {
    this.#open.shift()?.reject(new LogRejection(code, message));
  }
}
