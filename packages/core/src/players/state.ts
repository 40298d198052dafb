import type { ConfigName, Missed, PlayerId, Presence, RoomId } from "@yellow-harbor/protocol";
import type { Latency } from "../harbor/latency.ts";

export interface Player {
  readonly id: PlayerId;
  readonly name: string;
  readonly build: string;
  /** The lobby the player belongs to, also while in a room of it. */
  readonly lobby: ConfigName;
  room: RoomId | null;
  presence: Presence;
  /** Number of the connection the player is here by; null while away. */
  connection: number | null;
  latency: Latency | null;
  /** What befell it since it was lost last; absent while nothing has. */
  missed?: readonly Missed[];
}

export interface PlayersState {
  readonly byId: Map<PlayerId, Player>;
  /** How many of them are here. */
  here: number;
}

export function newPlayersState(): PlayersState {
  return { byId: new Map(), here: 0 };
}
