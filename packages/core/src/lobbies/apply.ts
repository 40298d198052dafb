import type { ConfigName, RoomId } from "@yellow-harbor/protocol";
import { assertNever } from "../harbor/decision.ts";
import type { HarborState } from "../harbor/state.ts";
import type { LobbyEvent } from "./events.ts";
import type { Lobby } from "./state.ts";

export function applyLobby(state: HarborState, event: LobbyEvent): void {
  const lobby = lobbyOf(state, event.lobby);
  lobby.revision += 1;
  switch (event.kind) {
    case "lobby.stood":
      lobby.standing.set(event.player, { id: event.player, name: event.name, presence: event.presence });
      return;
    case "lobby.stepped-out":
      lobby.standing.delete(event.player);
      return;
    case "lobby.presence-changed": {
      const stander = lobby.standing.get(event.player);
      if (stander) stander.presence = event.presence;
      return;
    }
    default:
      assertNever(event);
  }
}

export function lobbyOf(state: HarborState, id: ConfigName): Lobby {
  const known = state.lobbies.byId.get(id);
  if (known) return known;
  const lobby: Lobby = { id, revision: 0, standing: new Map(), rooms: new Set(), inRooms: 0 };
  state.lobbies.byId.set(id, lobby);
  return lobby;
}

/** Keeps the lobby's own count of a room's members. */
export function countInRooms(state: HarborState, id: ConfigName, change: number): void {
  lobbyOf(state, id).inRooms += change;
}

export function addRoomToLobby(state: HarborState, id: ConfigName, room: RoomId): void {
  lobbyOf(state, id).rooms.add(room);
}

export function removeRoomFromLobby(state: HarborState, id: ConfigName, room: RoomId): void {
  lobbyOf(state, id).rooms.delete(room);
}
