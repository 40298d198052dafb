import type { ConfigName, MatchId, PlayerId, QueueMode, RoomId, TicketEnd, TicketId } from "@yellow-harbor/protocol";
import type { MatchAttributes, MatchQuality } from "../matching/index.ts";
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
  | {
      readonly kind: "queue.ticket-ended";
      readonly queue: ConfigName;
      readonly ticket: TicketId;
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
      readonly sides: readonly (readonly PlayerId[])[];
      readonly quality: MatchQuality;
    }
  | { readonly kind: "queue.settled"; readonly queue: ConfigName; readonly match: MatchId; readonly room: RoomId }
  /** A player left the room of the match before it was played: it does not search on if that comes to nothing. */
  | {
      readonly kind: "queue.forgone";
      readonly queue: ConfigName;
      readonly match: MatchId;
      readonly player: PlayerId;
    }
  | { readonly kind: "queue.undone"; readonly queue: ConfigName; readonly match: MatchId; readonly why: string }
  | { readonly kind: "queue.mode-set"; readonly queue: ConfigName; readonly mode: QueueMode };
