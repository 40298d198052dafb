import type { ConfigName, Missed, PlayerId, Presence, RoomId } from "@yellow-harbor/protocol";
import type { Latency } from "../latency.ts";

/** What has befallen one player alone, such as being kicked from its room: it is in no view, so the player must hear of it. */
export interface OwnFate {
  /** How often something has; the last of it has this number. */
  readonly revision: number;
  /** The last few, the oldest first. */
  readonly lately: readonly Missed[];
  /** Up to which it was told before it was lost last, for a client that does not say so itself. */
  readonly told: number;
}

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
  /** What has befallen it alone; absent while nothing has. */
  own?: OwnFate;
}

export interface PlayersState {
  readonly byId: Map<PlayerId, Player>;
  /** How many of them are here. */
  here: number;
}

export function newPlayersState(): PlayersState {
  return { byId: new Map(), here: 0 };
}
