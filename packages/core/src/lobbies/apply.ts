import type { ConfigName, RoomId } from "@yellow-harbor/protocol";
import { clearDeadline, hasDeadline, setDeadline } from "../deadlines/index.ts";
import { assertNever } from "../model/decision.ts";
import type { LobbyEvent } from "../model/lobbies/events.ts";
import type { Lobby } from "../model/lobbies/state.ts";
import type { RoomsPart } from "../model/state.ts";

/** How long changes of the numbers gather before the players are told: a busy lobby would tell nothing else. */
const TALLY_MS = 1_000;

export function applyLobby(state: RoomsPart, event: LobbyEvent, at: number): void {
  const lobby = lobbyOf(state, event.lobby);
  if (event.kind === "lobby.tallied") {
    lobby.told = event.counts;
    lobby.crowded = event.crowded;
    lobby.revision += 1;
    clearDeadline(state.deadlines, "lobby-tally", lobby.id);
    return;
  }
  // While it is crowded nobody is told of single players.
  if (!lobby.crowded) lobby.revision += 1;
  switch (event.kind) {
    case "lobby.joined":
      lobby.standing.set(event.player, { id: event.player, name: event.name, presence: event.presence });
      return tallySoon(state, lobby, at);
    case "lobby.left":
      lobby.standing.delete(event.player);
      return tallySoon(state, lobby, at);
    case "lobby.presence-changed": {
      const player = lobby.standing.get(event.player);
      if (player) player.presence = event.presence;
      return;
    }
    default:
      assertNever(event);
  }
}

/** Nobody in a lobby is connected any more. */
export function markPlayersAway(state: RoomsPart): void {
  for (const lobby of state.lobbies.byId.values()) {
    for (const player of lobby.standing.values()) player.presence = "away";
    lobby.revision += 1;
  }
}

export function lobbyOf(state: RoomsPart, id: ConfigName): Lobby {
  const known = state.lobbies.byId.get(id);
  if (known) return known;
  const lobby: Lobby = {
    id,
    revision: 0,
    standing: new Map(),
    rooms: new Set(),
    inRooms: 0,
    crowded: false,
    told: { players: 0, rooms: 0, inRooms: 0, searching: 0 },
    searching: 0,
  };
  state.lobbies.byId.set(id, lobby);
  return lobby;
}

function tallySoon(state: RoomsPart, lobby: Lobby, at: number): void {
  if (!hasDeadline(state.deadlines, "lobby-tally", lobby.id)) {
    setDeadline(state.deadlines, "lobby-tally", lobby.id, at + TALLY_MS);
  }
}

/** Keeps the lobby's own count of a room's members. */
export function countInRooms(state: RoomsPart, id: ConfigName, change: number, at: number): void {
  const lobby = lobbyOf(state, id);
  lobby.inRooms += change;
  tallySoon(state, lobby, at);
}

/** Keeps the count of those who search in the lobbies' queues. */
export function countSearching(state: RoomsPart, at: number): void {
  for (const lobby of state.lobbies.byId.values()) {
    const searching = state.seen.queues.searchingIn(lobby.id);
    if (searching === lobby.searching) continue;
    lobby.searching = searching;
    tallySoon(state, lobby, at);
  }
}

export function addRoomToLobby(state: RoomsPart, id: ConfigName, room: RoomId, at: number): void {
  const lobby = lobbyOf(state, id);
  lobby.rooms.add(room);
  tallySoon(state, lobby, at);
}

export function removeRoomFromLobby(state: RoomsPart, id: ConfigName, room: RoomId, at: number): void {
  const lobby = lobbyOf(state, id);
  lobby.rooms.delete(room);
  tallySoon(state, lobby, at);
}
