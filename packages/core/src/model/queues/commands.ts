import type {
  ConfigName,
  DepartedReason,
  MatchId,
  PartyId,
  PartyLeft,
  PlayerArgs,
  PlayerId,
  QueueMode,
  RoomId,
  TicketId,
} from "@yellow-harbor/protocol";
import type { FoundMatch } from "../../matching/index.ts";

/** What came of proposals. */
export interface Proposed {
  readonly made: number;
  readonly refused: number;
}

export type QueueAsk = "queue.join" | "queue.agree" | "queue.cancel" | "queue.confirm" | "queue.backfill";

export type QueueCommand =
  | { [A in QueueAsk]: { readonly do: A; readonly player: PlayerId; readonly args: PlayerArgs<A> } }[QueueAsk]
  /** Time to look for matches. */
  | { readonly do: "queue.pass"; readonly queue: ConfigName }
  /** What was found by whoever was told to look for matches. */
  | {
      readonly do: "queue.propose";
      readonly queue: ConfigName;
      readonly look: string;
      readonly matches: readonly FoundMatch[];
      readonly hasMore: boolean;
    }
  /** Whoever looked for matches is gone: the next one has to be told everything. */
  | { readonly do: "queue.matcher-lost" }
  /** The search, or the asking, has taken too long. */
  /** A player is out of a party that may be searching. */
  | {
      readonly do: "queue.leave-party";
      readonly player: PlayerId;
      readonly party: PartyId;
      readonly cause: PartyLeft;
    }
  | { readonly do: "queue.expire"; readonly ticket: TicketId }
  /** A player of a ticket is away, or back. */
  | { readonly do: "queue.check-presence"; readonly player: PlayerId }
  | {
      readonly do: "queue.drop-player";
      readonly player: PlayerId;
      readonly cause: "player-left" | "went-elsewhere";
    }
  /** Not all have answered in time. */
  | { readonly do: "queue.confirm-late"; readonly match: MatchId }
  /** Somebody has left a room. */
  | {
      readonly do: "queue.member-left";
      readonly room: RoomId;
      readonly player: PlayerId;
      readonly name: string;
      readonly reason: DepartedReason;
    }
  /** Nobody is looked for any more, for a reason in words. */
  | { readonly do: "queue.stop-backfill"; readonly room: RoomId; readonly why: string }
  | { readonly do: "queue.operator-backfill"; readonly room: RoomId; readonly wanted: boolean }
  /** The players of a match have come into the room that they were found for. */
  | { readonly do: "queue.players-joined"; readonly match: MatchId }
  /** The room of a match plays: the match stands. */
  | { readonly do: "queue.room-playing"; readonly room: RoomId }
  | { readonly do: "queue.forfeit"; readonly room: RoomId; readonly player: PlayerId }
  /** The match came to nothing: its players search on, as if it had never been. */
  | { readonly do: "queue.put-back"; readonly match: MatchId; readonly why: string }
  | { readonly do: "queue.set-mode"; readonly queue: ConfigName; readonly mode: QueueMode };
