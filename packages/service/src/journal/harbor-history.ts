import type { EventKind } from "@yellow-harbor/core";
import type { InstanceView, PersonErased, PersonExport, RoomView } from "@yellow-harbor/protocol";
import type { JournalRow } from "./event-log.ts";
import type { Snapshot } from "./snapshots.ts";

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

export interface PlayerHistoryQuestion {
  /** Id of the player. */
  readonly player: string;
  /** Only events with lower numbers than this. */
  readonly before: number | undefined;
  /** How many events are told. */
  readonly story: number;
}

export type PlayerHistoryAnswer =
  | {
      readonly found: true;
      /** What the player did and what happened to it, oldest first. */
      readonly story: readonly HistoryEvent[];
      /** Where to ask on for what was before; undefined when there is nothing. */
      readonly older: number | undefined;
    }
  /** No event that is still kept names it. */
  | { readonly found: false };

export interface InstanceRecordQuery {
  readonly limit: number;
  /** Order time and id of the last one of the page before. */
  readonly before: { readonly launchedAtMs: number; readonly id: string } | undefined;
  readonly state: string | undefined;
}

/** What the journal knows of somebody. */
export type PersonKept = Pick<PersonExport, "account" | "players" | "names" | "events" | "more">;

/**
 * What is asked of the past of one harbor, of what is durable alone. A port: whoever follows the log can answer, late but
 * never wrong, without owning the harbor.
 */
export interface HarborHistory {
  /** Events with numbers from `fromSeq` on, at most `limit`. */
  events(fromSeq: number, limit: number): Promise<JournalRow[]>;
  /** Makes a snapshot of everything up to a durable event. */
  snapshotAt(seq: number): Promise<Snapshot>;
  /** What a room was like at a moment. */
  room(question: HistoryQuestion): Promise<HistoryAnswer>;
  /** What a player did and what happened to it. */
  player(question: PlayerHistoryQuestion): Promise<PlayerHistoryAnswer>;
  /**
   * Holds all that is kept against its checksums, also what no start reads. Resolves to what is wrong, or to undefined;
   * rejects when the journal is closed meanwhile.
   */
  check(): Promise<string | undefined>;
  /** Writes a copy of everything as it is now to a new file, while the journal goes on. */
  copyTo(file: string, how: { readonly withSecret: boolean }): Promise<void>;
  instanceRecords(query: InstanceRecordQuery): Promise<InstanceView[]>;
  instanceRecord(id: string): Promise<InstanceView | undefined>;
  /** What the journal knows of an account, or of the id of a player. */
  personEvents(who: string): Promise<PersonKept>;
  /** Replaces the names and the account of somebody in all that is kept, and makes the sums anew. */
  erasePerson(who: string): Promise<PersonErased>;
}
