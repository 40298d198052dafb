import type {
  Address,
  InstanceId,
  PlayerArgs,
  PlayerAsk,
  PlayerId,
  ProblemCode,
  RoomId,
  RunId,
  Standing,
} from "@yellow-harbor/protocol";

/** A request of a player: the words of the wire with who asks. */
type Asked<A extends Exclude<Extract<PlayerAsk, `room.${string}`>, "room.relay">> = {
  readonly do: A;
  readonly player: PlayerId;
  readonly args: PlayerArgs<A>;
};

export type RoomCommand =
  | Asked<"room.open">
  | Asked<"room.join">
  | Asked<"room.leave">
  | Asked<"room.pick-level">
  | Asked<"room.ready">
  | Asked<"room.start">
  | Asked<"room.seek">
  | Asked<"room.change">
  | Asked<"room.hand-over">
  | Asked<"room.put-out">
  | Asked<"room.stop-count">
  /** Something changed that start depends on: a countdown may have to stop, or a room to start by itself. */
  | { readonly do: "room.consider"; readonly room: RoomId }
  /** The countdown is over. */
  | { readonly do: "room.launch"; readonly room: RoomId }
  | Asked<"room.write">
  | Asked<"room.erase">
  /** What operators do to a room. */
  | { readonly do: "room.operator-hand-over"; readonly room: RoomId; readonly to: PlayerId }
  | {
      readonly do: "room.operator-put-out";
      readonly room: RoomId;
      readonly player: PlayerId;
      readonly reason: string | undefined;
      readonly ban: boolean;
    }
  /** Everybody is put out, one after the other, and the room closes with the last. */
  | { readonly do: "room.dissolve"; readonly room: RoomId; readonly reason: string | undefined }
  | {
      readonly do: "room.depart";
      readonly player: PlayerId;
      readonly room: RoomId;
      readonly reason: "left" | "lost" | "put-out";
    }
  | { readonly do: "room.mark-away"; readonly room: RoomId; readonly player: PlayerId; readonly untilMs: number }
  | { readonly do: "room.mark-back"; readonly room: RoomId; readonly player: PlayerId }
  | {
      readonly do: "room.play";
      readonly room: RoomId;
      readonly run: RunId;
      readonly instance: InstanceId;
      readonly address: Address;
    }
  | {
      readonly do: "room.set-result";
      readonly room: RoomId;
      readonly run: RunId;
      readonly standings: readonly Standing[];
      readonly note: string | undefined;
    }
  /** The travel or the run ended without a result. */
  | {
      readonly do: "room.return";
      readonly room: RoomId;
      readonly run: RunId;
      readonly code: ProblemCode;
      readonly detail: string;
    }
  | { readonly do: "room.close"; readonly room: RoomId };
