import type { ConfigName, LobbyNews, LobbySummary, LobbyView, OwnNews, Patch } from "@yellow-harbor/protocol";
import { assertNever } from "../harbor/decision.ts";
import type { Push } from "../harbor/push.ts";
import type { HarborState } from "../harbor/state.ts";
import type { LobbyEvent } from "./events.ts";

/** The complete picture of a lobby, for whoever comes to stand in it. */
export function lobbyView(state: HarborState, id: ConfigName): LobbyView {
  const lobby = state.lobbies.byId.get(id);
  return {
    id,
    revision: lobby?.revision ?? 0,
    players: Object.fromEntries([...(lobby?.standing.values() ?? [])].map((stander) => [stander.id, { ...stander }])),
  };
}

export function lobbySummary(state: HarborState, id: ConfigName, title: string): LobbySummary {
  const lobby = state.lobbies.byId.get(id);
  return {
    id,
    title,
    players: lobby?.standing.size ?? 0,
    rooms: lobby?.rooms.size ?? 0,
    inRooms: lobby?.inRooms ?? 0,
  };
}

export function lobbyPushes(state: HarborState, event: LobbyEvent): Push[] {
  const lobby = state.lobbies.byId.get(event.lobby);
  if (lobby === undefined) return [];
  // The one it is about gets a complete picture instead, or has no connection.
  const to = [...lobby.standing.keys()].filter((player) => player !== event.player);
  const { news, patch } = newsOf(event);
  const told: Push = { scope: "lobby", id: lobby.id, to, revision: lobby.revision, news, patch };
  if (event.kind !== "lobby.stood" || event.because === undefined) return [told];
  const own: Extract<OwnNews, { kind: "out-of-room" }> = {
    kind: "out-of-room",
    ...event.because,
    lobby: lobbyView(state, lobby.id),
  };
  return [told, { scope: "you", to: event.player, news: own }];
}

function newsOf(event: LobbyEvent): { news: LobbyNews; patch: Patch } {
  const { player } = event;
  switch (event.kind) {
    case "lobby.stood": {
      const { name, presence } = event;
      const patch = { players: { [player]: { id: player, name, presence } } };
      return { news: { kind: "player-arrived", player, name }, patch };
    }
    case "lobby.stepped-out":
      return { news: { kind: "player-gone", player, reason: event.reason }, patch: { players: { [player]: null } } };
    case "lobby.presence-changed": {
      const kind = event.presence === "away" ? "player-away" : "player-back";
      return { news: { kind, player }, patch: { players: { [player]: { presence: event.presence } } } };
    }
    default:
      return assertNever(event);
  }
}
