import type { ConfigName, PlayerId, Presence, RoomId } from "@yellow-harbor/protocol";

export interface LobbyPlayer {
  readonly id: PlayerId;
  readonly name: string;
  presence: Presence;
}

/** A lobby in numbers. */
export interface LobbyCounts {
  readonly players: number;
  readonly rooms: number;
  readonly inRooms: number;
  readonly searching: number;
}

export interface Lobby {
  readonly id: ConfigName;
  revision: number;
  /** Players who are in the lobby: in no room. */
  readonly standing: Map<PlayerId, LobbyPlayer>;
  /** Rooms of the lobby, oldest first. */
  readonly rooms: Set<RoomId>;
  /** Players in those rooms. */
  inRooms: number;
  /** Players who search in its queues. Absent in states of before there were any. */
  searching?: number;
  /** The numbers as its players were told them last. */
  told: LobbyCounts;
  /** Whether it is told in numbers only, without names. */
  crowded: boolean;
}

export interface LobbiesState {
  /** Made when the first player joins it. */
  readonly byId: Map<ConfigName, Lobby>;
}

export function newLobbiesState(): LobbiesState {
  return { byId: new Map() };
}
