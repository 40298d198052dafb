import type {
  Address,
  ConfigName,
  InstanceId,
  MatchOrder,
  PassId,
  PlayerId,
  RoomId,
  RunId,
  Standing,
} from "@yellow-harbor/protocol";

export type PoolEvent = { readonly instance: InstanceId } & (
  | {
      readonly kind: "instance.ordered";
      readonly pool: ConfigName;
      readonly build: ConfigName;
      readonly address: Address;
      /** The room that it is ordered for; absent when it is to be ready for whoever comes. */
      readonly room?: RoomId;
      readonly why: string;
      readonly bootByMs: number;
      readonly stopMs: number;
      readonly portRestMs: number;
      readonly forgetMs: number;
    }
  | { readonly kind: "instance.claimed"; readonly room: RoomId; readonly run: RunId; readonly why: string }
  /** Its room has let go of it, and it is there for the next. */
  | { readonly kind: "instance.returned"; readonly room: RoomId; readonly reason: string }
  | { readonly kind: "instance.booting"; readonly pid: number }
  | { readonly kind: "instance.announced"; readonly pid?: number }
  | { readonly kind: "instance.opened"; readonly detail: string }
  | {
      readonly kind: "instance.assigned";
      readonly number: number;
      readonly match: MatchOrder;
      /** Pass id by player. */
      readonly passes: Readonly<Record<PlayerId, PassId>>;
    }
  | {
      readonly kind: "instance.berth-added";
      readonly number: number;
      readonly run: RunId;
      readonly room: RoomId;
      readonly player: { readonly id: PlayerId; readonly name: string; readonly place: number };
      readonly pass: PassId;
      readonly expiresAtMs: number;
    }
  | {
      readonly kind: "instance.match-begun";
      readonly number: number;
      readonly run: RunId;
      readonly without: readonly PlayerId[];
    }
  | { readonly kind: "instance.match-ended"; readonly number: number; readonly run: RunId; readonly reason: string }
  | { readonly kind: "instance.took-orders"; readonly taken: number }
  | {
      readonly kind: "instance.boarded";
      readonly player: PlayerId;
      readonly name: string;
      readonly run: RunId;
      readonly attempt?: string;
    }
  | {
      readonly kind: "instance.unboarded";
      readonly player: PlayerId;
      readonly name: string;
      readonly reason: "left" | "lost" | "put-out" | "left-room";
      /** Number of the order that tells the instance, when it was not the instance that said so. */
      readonly number?: number;
      readonly run?: RunId;
    }
  | {
      readonly kind: "instance.reported";
      readonly room: RoomId;
      readonly run: RunId;
      readonly standings: readonly Standing[];
      readonly note?: string;
    }
  | {
      readonly kind: "instance.stop-ordered";
      readonly number: number;
      readonly reason: string;
      readonly stopByMs: number;
    }
  | {
      readonly kind: "instance.stop-forced";
      readonly how: "terminate" | "kill";
      readonly killByMs: number | null;
    }
  | { readonly kind: "instance.parting"; readonly reason: string }
  | { readonly kind: "instance.failed"; readonly why: string; readonly room: RoomId | null; readonly neverOpen?: true }
  | {
      readonly kind: "instance.exited";
      readonly state: "ended" | "failed";
      readonly why: string;
      readonly exitCode: number | null;
      readonly signal: string | null;
      readonly room: RoomId | null;
      readonly portFreeAtMs: number;
      /** It failed before it was open. */
      readonly neverOpen?: true;
    }
  | { readonly kind: "instance.forgotten" }
);
