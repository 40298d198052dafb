import type {
  ChangeByOperator,
  ConfigName,
  EchoUrl,
  MatchId,
  OpenByOperator,
  PlayerArgs,
  PlayerAsk,
  PlayerId,
  ProblemCode,
  ReservedFor,
  ReservePlace,
  RoomId,
  RunId,
  SideName,
} from "@yellow-harbor/protocol";
import type { Destination } from "../destination.ts";
import type { Latency } from "../latency.ts";
import type { Outcome, ReportedOutcome } from "../outcome.ts";

/** A request of a player: the words of the wire with who asks. */
type Asked<A extends RoomAsk> = {
  readonly do: A;
  readonly player: PlayerId;
  readonly args: PlayerArgs<A>;
};

export type RoomAsk = Exclude<
  Extract<PlayerAsk, `room.${string}` | `board.${string}`>,
  "room.relay" | "room.signal" | "room.kinds" | "room.tell-echo"
>;

/** What the game's own back end, or whoever operates it, does to rooms without being a player. */
export type OperatorRoomCommand =
  | {
      readonly do: "room.operator-open";
      readonly wish: OpenByOperator;
      readonly request: { readonly key: string; readonly fingerprint: string } | undefined;
    }
  | (ToRoom & { readonly do: "room.operator-change"; readonly change: ChangeByOperator })
  | (ToRoom & { readonly do: "room.operator-put"; readonly player: PlayerId; readonly side: SideName | undefined })
  | (ToRoom & { readonly do: "room.operator-ready"; readonly player: PlayerId; readonly ready: boolean })
  | (ToRoom & { readonly do: "room.operator-start" })
  | (ToRoom & { readonly do: "room.operator-end"; readonly reason: string | undefined })
  | (ToRoom & { readonly do: "room.operator-reserve"; readonly place: ReservePlace })
  | (ToRoom & { readonly do: "room.operator-cancel"; readonly for: ReservedFor });

interface ToRoom {
  readonly room: RoomId;
  /** Revision of the room that the request was made from; undefined when that does not matter. */
  readonly basedOn?: number | undefined;
}

export type RoomCommand =
  | { [A in RoomAsk]: Asked<A> }[RoomAsk]
  /** Where the host's world answers echoes, at the address that it comes from; null for nowhere. */
  | { readonly do: "room.tell-echo"; readonly player: PlayerId; readonly echo: EchoUrl | null }
  /** Something changed that start depends on: a countdown may have to stop, or a room to start by itself. */
  | { readonly do: "room.consider"; readonly room: RoomId }
  /** The countdown is over. */
  | { readonly do: "room.launch"; readonly room: RoomId }
  /** What operators do to a room. */
  | { readonly do: "room.operator-hand-over"; readonly room: RoomId; readonly to: PlayerId }
  | {
      readonly do: "room.operator-kick";
      readonly room: RoomId;
      readonly player: PlayerId;
      readonly reason: string | undefined;
      readonly ban: boolean;
    }
  | {
      readonly do: "room.instance-kick";
      readonly room: RoomId;
      readonly player: PlayerId;
      readonly reason: string | undefined;
      readonly ban: boolean;
    }
  | {
      readonly do: "room.operator-ban";
      readonly room: RoomId;
      readonly player: PlayerId;
      readonly reason: string | undefined;
    }
  | { readonly do: "room.operator-unban"; readonly room: RoomId; readonly player: PlayerId }
  | ({ readonly do: "room.operator-set-result"; readonly room: RoomId } & ReportedOutcome)
  | OperatorRoomCommand
  /** Places have been kept for as long as was said. */
  | { readonly do: "room.reservations-late"; readonly room: RoomId }
  /** The host may be lost for longer than it keeps the powers. */
  | { readonly do: "room.check-host"; readonly room: RoomId }
  /** The one who holds the turn may be away, or its turn may be over. */
  | { readonly do: "room.check-turn"; readonly room: RoomId }
  | { readonly do: "room.measure"; readonly room: RoomId; readonly player: PlayerId; readonly latency: Latency }
  /** The time for looking at the results is over. */
  | { readonly do: "room.results-seen"; readonly room: RoomId }
  /** Everybody is removed, one after the other, and the room closes with the last. */
  | {
      readonly do: "room.dissolve";
      readonly room: RoomId;
      readonly reason: string | undefined;
      readonly by: "host" | "moderator" | "operator" | "instance";
    }
  | {
      readonly do: "room.depart";
      readonly player: PlayerId;
      readonly room: RoomId;
      readonly reason: "left" | "lost" | "kicked" | "late";
    }
  | { readonly do: "room.mark-away"; readonly room: RoomId; readonly player: PlayerId; readonly untilMs: number }
  | { readonly do: "room.mark-back"; readonly room: RoomId; readonly player: PlayerId }
  | {
      readonly do: "room.play";
      readonly room: RoomId;
      readonly run: RunId;
      readonly destination: Destination;
    }
  /** No result has come for as long as a run may go on. */
  | { readonly do: "room.overdue"; readonly room: RoomId }
  /** The place that the run is played at is lost. */
  | {
      readonly do: "room.lose-run";
      readonly room: RoomId;
      readonly run: RunId;
      readonly code: ProblemCode;
      readonly detail: string;
    }
  /** A member's connection answers, and its game has sent nothing for long, or does again. */
  | { readonly do: "room.mark-silent"; readonly player: PlayerId; readonly silent: boolean }
  | {
      readonly do: "room.record-result";
      readonly room: RoomId;
      readonly run: RunId;
      readonly outcome: Outcome;
    }
  /** The travel came to nothing, or everybody is gone; `aborted` when somebody chose to. */
  | {
      readonly do: "room.return";
      readonly room: RoomId;
      readonly run: RunId;
      readonly code: ProblemCode;
      readonly detail: string;
      readonly aborted?: { readonly by: PlayerId | null } | undefined;
    }
  | { readonly do: "room.close"; readonly room: RoomId }
  /** A member may have done nothing for long. */
  | { readonly do: "room.check-idle"; readonly room: RoomId }
  /** What a member brings may be other by now. */
  | { readonly do: "room.describe-member"; readonly room: RoomId; readonly player: PlayerId }
  /** One of a party follows its leader. */
  | { readonly do: "room.come-along"; readonly room: RoomId; readonly player: PlayerId }
  /** A match becomes a room with all of its players; then it starts. */
  | {
      readonly do: "room.convene";
      readonly match: MatchId;
      readonly queue: ConfigName;
      readonly lobby: ConfigName;
      readonly sides: readonly (readonly PlayerId[])[];
      readonly roles: Readonly<Record<PlayerId, string>> | undefined;
    }
  | { readonly do: "room.launch-match"; readonly room: RoomId }
  /** The players that a queue has found for a playing room come in, each on its side. */
  | {
      readonly do: "room.admit";
      readonly match: MatchId;
      readonly room: RoomId;
      readonly sides: readonly (readonly PlayerId[])[];
      readonly roles: Readonly<Record<PlayerId, string>> | undefined;
    };
