import type { EventKind, WrittenEvent } from "@yellow-harbor/core";
import type {
  AuditCheck,
  AuditEntry,
  AuditPage,
  AuditQuery,
  InstanceView,
  OperatorRole,
  PersonErased,
  PersonExport,
  RoomView,
} from "@yellow-harbor/protocol";

/** One event as the journal keeps it. */
export interface JournalRow extends WrittenEvent {
  readonly seq: number;
  /** Milliseconds since 1970-01-01T00:00:00Z. */
  readonly atMs: number;
}

/** Events that become durable together, with the records that are projected from them. */
export interface JournalBatch {
  readonly rows: readonly JournalRow[];
  readonly instances: readonly InstanceView[];
}

/** How much of the past is kept. */
export interface JournalKeep {
  readonly events: number;
  readonly bytes: number;
}

export interface Snapshot {
  readonly seq: number;
  readonly version: number;
  readonly body: string;
}

/** A moment of the past: right after an event, or the newest event at a time. */
export type HistoryMoment = { readonly seq: number } | { readonly atMs: number } | undefined;

export interface HistoryQuestion {
  /** Id or code; of several rooms that had a code, the one that had it last before the moment. */
  readonly room: string;
  /** The newest one when left out. */
  readonly at: HistoryMoment;
  /** How many of the room's events up to the moment are told. */
  readonly story: number;
}

export interface HistoryEvent {
  readonly seq: number;
  readonly atMs: number;
  readonly kind: EventKind;
  readonly text: string | undefined;
}

export type HistoryAnswer =
  | {
      readonly found: true;
      /** The room after the last event of the story, or as it was last with somebody in it when that has closed it. */
      readonly room: RoomView;
      readonly closed: boolean;
      /** The room's events, oldest first, the moment's own last. */
      readonly story: readonly HistoryEvent[];
      /** Number of the room's next event after the moment. */
      readonly next: number | undefined;
    }
  /** No event of the journal names it before the moment. `from` is the journal's first event. */
  | { readonly found: false; readonly from: { readonly seq: number; readonly atMs: number } | undefined };

export interface InstanceRecordQuery {
  readonly limit: number;
  /** Order time and id of the last one of the page before. */
  readonly before: { readonly launchedAtMs: number; readonly id: string } | undefined;
  readonly state: string | undefined;
}

/** What the journal knows of somebody. */
export type PersonKept = Pick<PersonExport, "account" | "players" | "names" | "events" | "more">;

/** A key of an operator as it is kept: with the hash of its secret, times in milliseconds since 1970. */
export interface OperatorKeyRow {
  readonly id: string;
  readonly name: string;
  readonly role: OperatorRole;
  readonly hash: Uint8Array;
  readonly createdAtMs: number;
  readonly lifeMs: number | null;
  readonly endsAtMs: number | null;
  readonly revokedAtMs: number | null;
  readonly lastUsedAtMs: number | null;
  readonly lastUsedFrom: string | null;
}

/** A browser that is logged in to the console, as it is kept. */
export interface OperatorSessionRow {
  readonly id: string;
  readonly hash: Uint8Array;
  /** Key that it was begun with; null for the first one of the data folder. */
  readonly key: string | null;
  readonly csrf: string;
  readonly fromAddress: string;
  readonly agent: string;
  readonly createdAtMs: number;
  readonly lastUsedAtMs: number;
}

export type NewAuditEntry = Omit<AuditEntry, "seq">;

/** What is kept of operators: their keys, their sessions, and what they did. */
export interface OperatorStore {
  operatorKeys(): Promise<OperatorKeyRow[]>;
  /** Adds a key, or replaces what is kept of it. Resolves once that is durable. */
  putOperatorKey(row: OperatorKeyRow): Promise<void>;
  operatorSessions(): Promise<OperatorSessionRow[]>;
  putOperatorSession(row: OperatorSessionRow): Promise<void>;
  removeOperatorSession(id: string): Promise<void>;
  /** Resolves once the entry is durable. */
  addAudit(entry: NewAuditEntry): Promise<void>;
  auditPage(query: AuditQuery): Promise<AuditPage>;
  /** Holds every entry against the sums. */
  checkAudit(): Promise<AuditCheck>;
  /** Removes the entries of before a time. Resolves to how many they were. */
  trimAudit(untilMs: number): Promise<number>;
}

/**
 * The launched, durable record of everything that happened. A port: nothing outside this folder may assume that the log
 * is on this computer. A rejected append means that the batch may or may not be durable: the caller must stop.
 */
export interface Journal {
  /** Resolves once the batch is durable. Rejects when `expectedSeq` is not the number of the last event. */
  append(batch: JournalBatch, expectedSeq: number): Promise<void>;
  /** Events with numbers from `fromSeq` on, at most `limit`. */
  read(fromSeq: number, limit: number): Promise<JournalRow[]>;
  newestSnapshot(): Promise<Snapshot | undefined>;
  /** Makes a snapshot of everything up to a durable event, from what is durable alone. */
  snapshotAt(seq: number): Promise<Snapshot>;
  /** Keeps a snapshot; of older ones so many that no event is further than two `spacing`s from one. */
  writeSnapshot(snapshot: Snapshot, spacing: number): Promise<void>;
  /**
   * Removes at most `limit` of the oldest events that a snapshot of `version` stands for: those beyond the `keep.events`
   * youngest, and more of them while the journal takes more than `keep.bytes`. Resolves to how many were removed: ask
   * again until that is 0.
   */
  trim(keep: JournalKeep, version: number, limit: number): Promise<number>;
  /** What a room was like at a moment. */
  history(question: HistoryQuestion): Promise<HistoryAnswer>;
  /**
   * Holds all that is kept against its checksums, also what no start reads. Resolves to what is wrong, or to undefined;
   * rejects when the journal is closed meanwhile.
   */
  checkHistory(): Promise<string | undefined>;
  /** Writes a copy of everything as it is now to a new file, while the journal goes on. */
  copyTo(file: string, how: { readonly withSecret: boolean }): Promise<void>;
  instanceRecords(query: InstanceRecordQuery): Promise<InstanceView[]>;
  /** What the journal knows of an account, or of the id of a player. */
  personEvents(who: string): Promise<PersonKept>;
  /** Replaces the names and the account of somebody in all that is kept, and makes the sums anew. */
  erasePerson(who: string): Promise<PersonErased>;
  instanceRecord(id: string): Promise<InstanceView | undefined>;
  close(): Promise<void>;
}

/** What is known of a journal when it was opened. */
export interface OpenedJournal {
  readonly journal: Journal;
  readonly operators: OperatorStore;
  readonly lastSeq: number;
  /** Time of the last event, 0 of an empty journal. */
  readonly lastAtMs: number;
  /** The newest snapshot as it was then. */
  readonly snapshot: Promise<Snapshot | undefined>;
  /** Secret of this harbor, 32 bytes, made when the data folder was. */
  readonly secret: Uint8Array;
}
