import type {
  AccountId,
  ConfigName,
  MatchId,
  PlayerId,
  QueueMode,
  RoomId,
  TicketEnd,
  TicketId,
} from "@yellow-harbor/protocol";
import type { MatchAttributes, MatchQuality } from "../../matching/index.ts";
import type { Ticket } from "./state.ts";

export type QueueEvent =
  | {
      readonly kind: "queue.ticket-opened";
      readonly queue: ConfigName;
      readonly ticket: Ticket;
      readonly again?: string;
    }
  | {
      readonly kind: "queue.agreed";
      readonly queue: ConfigName;
      readonly ticket: TicketId;
      readonly player: PlayerId;
      readonly attributes: MatchAttributes;
      readonly latencyMs: Readonly<Record<string, number>>;
      /** With the last one to agree. */
      readonly search?: { readonly sinceMs: number; readonly untilMs: number | null };
    }
  | {
      readonly kind: "queue.held-changed";
      readonly queue: ConfigName;
      readonly ticket: TicketId;
      readonly held: boolean;
    }
  /** A ticket that searches in several queues is in one of them no more. */
  | {
      readonly kind: "queue.ticket-narrowed";
      readonly queue: ConfigName;
      readonly ticket: TicketId;
      readonly detail: string;
    }
  | {
      readonly kind: "queue.ticket-ended";
      readonly queue: ConfigName;
      readonly ticket: TicketId;
      /** Other queues that it searched in. */
      readonly also?: readonly ConfigName[];
      readonly players: readonly PlayerId[];
      readonly cause: TicketEnd;
      readonly detail: string;
    }
  | {
      readonly kind: "queue.matched";
      readonly queue: ConfigName;
      readonly match: MatchId;
      readonly tickets: readonly TicketId[];
      readonly region: string | null;
      /** Where it may be played, the best first, where its queue looks at latency. */
      readonly regions?: readonly string[];
      readonly sides: readonly (readonly PlayerId[])[];
      /** The role that each player takes, where its queue has a line-up. */
      readonly roles?: Readonly<Record<PlayerId, string>>;
      readonly quality: MatchQuality;
      /** When its players are asked first: until when. */
      readonly confirmByMs?: number;
      /** The playing room that it fills up. */
      readonly into?: RoomId;
    }
  | {
      readonly kind: "queue.accepted";
      readonly queue: ConfigName;
      readonly match: MatchId;
      readonly player: PlayerId;
    }
  /** All have accepted. */
  | { readonly kind: "queue.confirmed"; readonly queue: ConfigName; readonly match: MatchId }
  /** A player has let a match go, and may not search for a while. */
  | {
      readonly kind: "queue.search-paused";
      readonly queue: ConfigName;
      readonly player: PlayerId;
      readonly name: string;
      readonly times: number;
      readonly untilMs: number;
      /** It left a match that was being played, and was known by this. */
      readonly leaver?: string;
    }
  | {
      readonly kind: "queue.backfill-started";
      readonly queue: ConfigName;
      readonly room: RoomId;
      readonly untilMs: number;
      readonly places: number;
      readonly why: string;
    }
  | {
      readonly kind: "queue.backfill-ended";
      readonly queue: ConfigName;
      readonly room: RoomId;
      readonly why: string;
    }
  /** The players of a match are in the room that they were found for. */
  | { readonly kind: "queue.backfilled"; readonly queue: ConfigName; readonly match: MatchId; readonly room: RoomId }
  /** Somebody has left, and the queue's rooms are not to play on without. */
  | { readonly kind: "queue.room-ended"; readonly queue: ConfigName; readonly room: RoomId; readonly why: string }
  | {
      readonly kind: "queue.match-started";
      readonly queue: ConfigName;
      readonly match: MatchId;
      readonly room: RoomId;
      /** The queue does something about those who leave it. */
      readonly watchesLeavers?: true;
      /** Where leaving costs something: accounts of its players. */
      readonly accounts?: Readonly<Record<PlayerId, AccountId>>;
    }
  /** A player left the room of the match before it was played: it does not search on if that comes to nothing. */
  | {
      readonly kind: "queue.forfeited";
      readonly queue: ConfigName;
      readonly match: MatchId;
      readonly player: PlayerId;
    }
  | {
      readonly kind: "queue.undone";
      readonly queue: ConfigName;
      readonly match: MatchId;
      readonly why: string;
      /** When its players were being asked: the tickets that search on. */
      readonly searching?: readonly TicketId[];
    }
  | { readonly kind: "queue.mode-set"; readonly queue: ConfigName; readonly mode: QueueMode };
