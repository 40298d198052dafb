import type {
  ConfigName,
  LobbyPlayerView,
  LobbySummary,
  LobbyUpdate,
  LobbyView,
  OwnUpdate,
  Patch,
  PlayerId,
} from "@yellow-harbor/protocol";
import { assertNever } from "../model/decision.ts";
import type { LobbyEvent } from "../model/lobbies/events.ts";
import type { Lobby, LobbyCounts } from "../model/lobbies/state.ts";
import { type Delivery, toOne } from "../model/push.ts";
import { only, recordOf } from "../model/record.ts";
import type { RoomsPart } from "../model/state.ts";

/** The complete view of a lobby, for whoever joins it. */
export function lobbyView(state: RoomsPart, id: ConfigName): LobbyView {
  const lobby = state.lobbies.byId.get(id);
  if (lobby === undefined)
    return { id, revision: 0, players: {}, counts: { players: 0, rooms: 0, inRooms: 0, searching: 0 } };
  const { revision, told, crowded } = lobby;
  return {
    id,
    revision,
    ...(!crowded && { players: namesOf(lobby) }),
    counts: { ...told, searching: told.searching ?? 0 },
  };
}

const namesOf = ({ standing }: Lobby): Record<string, LobbyPlayerView> =>
  recordOf([...standing.values()].map((player) => [player.id, { ...player }]));

/** The numbers as they are now, told or not. */
export const countsOf = ({ standing, rooms, inRooms, searching = 0 }: Lobby): LobbyCounts => ({
  players: standing.size,
  rooms: rooms.size,
  inRooms,
  searching,
});

export function lobbySummary(state: RoomsPart, id: ConfigName, title: string): LobbySummary {
  const lobby = state.lobbies.byId.get(id);
  return {
    id,
    title,
    players: lobby?.standing.size ?? 0,
    rooms: lobby?.rooms.size ?? 0,
    inRooms: lobby?.inRooms ?? 0,
    searching: lobby?.searching ?? 0,
  };
}

export function lobbyPushes(state: RoomsPart, event: LobbyEvent): Delivery[] {
  const lobby = state.lobbies.byId.get(event.lobby);
  if (lobby === undefined) return [];
  const { id, revision } = lobby;
  const push = (to: readonly PlayerId[], { update, patch }: UpdateAndPatch): Delivery => ({
    scope: "lobby",
    id,
    to,
    revision,
    update,
    patch,
  });
  if (event.kind === "lobby.tallied") return [push([...lobby.standing.keys()], tallyTold(lobby, event))];
  // The one it is about gets a complete view instead, or has no connection. In a crowd nobody else is told.
  const others = () => [...lobby.standing.keys()].filter((player) => player !== event.player);
  const told = lobby.crowded ? [] : [push(others(), updatesOf(event))];
  if (event.kind !== "lobby.joined") return told;
  if (event.moved) return [...told, toOne(event.player, { kind: "into-lobby", lobby: lobbyView(state, lobby.id) })];
  if (event.because === undefined) return told;
  const own: Extract<OwnUpdate, { kind: "out-of-room" }> = {
    kind: "out-of-room",
    ...event.because,
    lobby: lobbyView(state, lobby.id),
  };
  return [...told, toOne(event.player, own)];
}

interface UpdateAndPatch {
  readonly update: LobbyUpdate;
  readonly patch: Patch;
}

/** Numbers; and the names when they come back or go, which the view before the event shows. */
function tallyTold(
  lobby: Lobby,
  { counts, crowded, was }: Extract<LobbyEvent, { kind: "lobby.tallied" }>,
): UpdateAndPatch {
  if (was === crowded) return { update: { kind: "counts-changed" }, patch: { counts } };
  return { update: { kind: "crowd-changed", crowded }, patch: { counts, players: crowded ? null : namesOf(lobby) } };
}

function updatesOf(event: Exclude<LobbyEvent, { kind: "lobby.tallied" }>): UpdateAndPatch {
  const { player } = event;
  switch (event.kind) {
    case "lobby.joined": {
      const { name, presence } = event;
      const patch = { players: only(player, { id: player, name, presence }) };
      return { update: { kind: "player-arrived", player, name }, patch };
    }
    case "lobby.left":
      return { update: { kind: "player-gone", player, reason: event.reason }, patch: { players: only(player, null) } };
    case "lobby.presence-changed": {
      const kind = event.presence === "away" ? "player-away" : "player-back";
      return { update: { kind, player }, patch: { players: only(player, { presence: event.presence }) } };
    }
    default:
      return assertNever(event);
  }
}
