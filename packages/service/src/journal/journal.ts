import type { EventKind } from "@yellow-harbor/core";
import type { InstanceView } from "@yellow-harbor/protocol";

/** One event as the journal keeps it. */
export interface JournalRow {
  readonly seq: number;
  /** Milliseconds since 1970-01-01T00:00:00Z. */
  readonly atMs: number;
  readonly kind: EventKind;
  /** The event as JSON. */
  readonly body: string;
}

/** Events that become durable together, with the records that are projected from them. */
export interface JournalBatch {
  readonly rows: readonly JournalRow[];
  readonly instances: readonly InstanceView[];
}

export interface Snapshot {
  readonly seq: number;
  readonly version: number;
  readonly body: string;
}

export interface InstanceRecordQuery {
  readonly limit: number;
  /** Order time and id of the last one of the page before. */
  readonly before: { readonly orderedAtMs: number; readonly id: string } | undefined;
  readonly state: string | undefined;
}

/**
 * The ordered, durable record of everything that happened. A port: nothing outside this folder may assume that the log
 * is on this computer. A rejected append means that the batch may or may not be durable: the caller must stop.
 */
export interface Journal {
  /** Resolves once the batch is durable. Rejects when `expectedSeq` is not the number of the last event. */
  append(batch: JournalBatch, expectedSeq: number): Promise<void>;
  /** Events with numbers from `fromSeq` on, at most `limit`. */
  read(fromSeq: number, limit: number): Promise<JournalRow[]>;
  newestSnapshot(): Promise<Snapshot | undefined>;
  writeSnapshot(snapshot: Snapshot): Promise<void>;
  instanceRecords(query: InstanceRecordQuery): Promise<InstanceView[]>;
  instanceRecord(id: string): Promise<InstanceView | undefined>;
  close(): Promise<void>;
}

/** What is known of a journal when it was opened. */
export interface OpenedJournal {
  readonly journal: Journal;
  readonly lastSeq: number;
  /** Time of the last event, 0 of an empty journal. */
  readonly lastAtMs: number;
  /** The newest snapshot as it was then. */
  readonly snapshot: Promise<Snapshot | undefined>;
  /** Secret of this harbor, 32 bytes, made when the data folder was. */
  readonly secret: Uint8Array;
}
