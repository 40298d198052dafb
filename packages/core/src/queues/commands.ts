import type { ConfigName, MatchId, PlayerArgs, PlayerId, QueueMode, RoomId, TicketId } from "@yellow-harbor/protocol";

export type QueueAsk = "queue.enter" | "queue.agree" | "queue.cancel";

export type QueueCommand =
  | { [A in QueueAsk]: { readonly do: A; readonly player: PlayerId; readonly args: PlayerArgs<A> } }[QueueAsk]
  /** Time to look for matches. */
  | { readonly do: "queue.pass"; readonly queue: ConfigName }
  /** The search, or the asking, has taken too long. */
  | { readonly do: "queue.expire"; readonly ticket: TicketId }
  /** A player of a ticket is away, or back. */
  | { readonly do: "queue.check-presence"; readonly player: PlayerId }
  | {
      readonly do: "queue.drop-player";
      readonly player: PlayerId;
      readonly cause: "player-left" | "went-elsewhere";
    }
  /** The room of a match plays: the match stands. */
  | { readonly do: "queue.settle"; readonly room: RoomId }
  | { readonly do: "queue.forgo"; readonly room: RoomId; readonly player: PlayerId }
  /** The match came to nothing: its players search on, as if it had never been. */
  | { readonly do: "queue.put-back"; readonly match: MatchId; readonly why: string }
  | { readonly do: "queue.set-mode"; readonly queue: ConfigName; readonly mode: QueueMode };
