import type { ConfigName, GoneReason, PlayerId, Presence, RoomId } from "@yellow-harbor/protocol";
import type { LobbyCounts } from "./state.ts";

/** Why a player is in the lobby again without having asked to; it is told so. */
export interface OutOfRoom {
  readonly room: RoomId;
  readonly cause: "kicked" | "closed" | "late" | "idle";
  readonly by?: "host" | "moderator" | "operator" | "instance";
  readonly why?: string;
}

export type LobbyEvent =
  | {
      readonly kind: "lobby.joined";
      readonly lobby: ConfigName;
      readonly player: PlayerId;
      readonly name: string;
      readonly presence: Presence;
      readonly because?: OutOfRoom;
      /** An operator has moved it here. */
      readonly moved?: true;
    }
  | {
      readonly kind: "lobby.left";
      readonly lobby: ConfigName;
      readonly player: PlayerId;
      readonly reason: GoneReason;
    }
  | {
      readonly kind: "lobby.presence-changed";
      readonly lobby: ConfigName;
      readonly player: PlayerId;
      readonly presence: Presence;
    }
  /** The players are told how many there are, and whether by name from now on. */
  | {
      readonly kind: "lobby.tallied";
      readonly lobby: ConfigName;
      readonly counts: LobbyCounts;
      readonly crowded: boolean;
      /** Whether it was told without names before. */
      readonly was: boolean;
    };
