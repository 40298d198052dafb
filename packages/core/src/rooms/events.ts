import type {
  Address,
  BoardKey,
  ConfigName,
  DepartedReason,
  InstanceId,
  LevelView,
  OnLeave,
  PlayerId,
  ProblemCode,
  RoomId,
  RunId,
  Standing,
  Visibility,
} from "@yellow-harbor/protocol";

export interface TravelOrder {
  readonly pool: ConfigName;
  readonly level: LevelView;
  readonly members: readonly { readonly id: PlayerId; readonly name: string; readonly place: number }[];
}

export type RoomEvent =
  | {
      readonly kind: "room.opened";
      readonly room: RoomId;
      readonly code: string;
      readonly name: string;
      readonly lobby: ConfigName;
      readonly roomKind: ConfigName;
      readonly capacity: number;
      readonly leastPlayers: number;
      readonly graceMs: number;
      readonly countdownMs: number;
      readonly autoStart: boolean;
      readonly host: PlayerId;
      readonly hostName: string;
    }
  | {
      readonly kind: "room.joined";
      readonly room: RoomId;
      readonly lobby: ConfigName;
      readonly player: PlayerId;
      readonly name: string;
      readonly place: number;
    }
  | {
      readonly kind: "room.departed";
      readonly room: RoomId;
      readonly lobby: ConfigName;
      readonly player: PlayerId;
      readonly name: string;
      readonly reason: DepartedReason;
      /** Who put it out, and why. */
      readonly by?: "host" | "operator";
      readonly why?: string;
      /** Entries of the board that go with it, and those that pass to the host. */
      readonly gone?: readonly BoardKey[];
      readonly passed?: readonly BoardKey[];
      /** Whether it may not come back in. */
      readonly ban?: boolean;
      /** The new host, when the one who departed was host and somebody remains. */
      readonly host?: PlayerId;
    }
  | {
      readonly kind: "room.settings-changed";
      readonly room: RoomId;
      readonly by: PlayerId;
      readonly name?: string;
      readonly capacity?: number;
      readonly visibility?: Visibility;
    }
  | {
      readonly kind: "room.board-written";
      readonly room: RoomId;
      readonly key: BoardKey;
      readonly value: unknown;
      readonly size: number;
      readonly owner: PlayerId;
      readonly onLeave: OnLeave;
      readonly by: PlayerId;
    }
  | { readonly kind: "room.board-erased"; readonly room: RoomId; readonly key: BoardKey; readonly by: PlayerId }
  | { readonly kind: "room.host-changed"; readonly room: RoomId; readonly host: PlayerId; readonly by?: PlayerId }
  | {
      readonly kind: "room.member-away";
      readonly room: RoomId;
      readonly player: PlayerId;
      readonly untilMs: number;
    }
  | { readonly kind: "room.member-back"; readonly room: RoomId; readonly player: PlayerId }
  | { readonly kind: "room.level-picked"; readonly room: RoomId; readonly by: PlayerId; readonly level: LevelView }
  | { readonly kind: "room.ready-set"; readonly room: RoomId; readonly player: PlayerId; readonly ready: boolean }
  | { readonly kind: "room.counting"; readonly room: RoomId; readonly startsAtMs: number }
  | { readonly kind: "room.count-stopped"; readonly room: RoomId; readonly why: string }
  | { readonly kind: "room.started"; readonly room: RoomId; readonly run: RunId; readonly order: TravelOrder }
  | {
      readonly kind: "room.playing";
      readonly room: RoomId;
      readonly run: RunId;
      readonly instance: InstanceId;
      readonly address: Address;
    }
  | {
      readonly kind: "room.result-set";
      readonly room: RoomId;
      readonly run: RunId;
      readonly standings: readonly Standing[];
      readonly note?: string;
    }
  | {
      readonly kind: "room.returned";
      readonly room: RoomId;
      readonly run: RunId;
      readonly code: ProblemCode;
      readonly detail: string;
    }
  | { readonly kind: "room.closed"; readonly room: RoomId; readonly lobby: ConfigName; readonly code: string };
