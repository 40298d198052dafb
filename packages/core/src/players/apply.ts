import type { Missed } from "@yellow-harbor/protocol";
import { clearDeadline, setDeadline } from "../deadlines/index.ts";
import { assertNever } from "../model/decision.ts";
import type { PlayerEvent } from "../model/players/events.ts";
import type { Player } from "../model/players/state.ts";
import type { RoomsPart } from "../model/state.ts";

export function applyPlayer(state: RoomsPart, event: PlayerEvent): void {
  const { byId } = state.players;
  switch (event.kind) {
    case "player.connected": {
      const { player: id, name, build, lobby, connection } = event;
      byId.set(id, { id, name, build, lobby, room: null, presence: "here", connection, latency: null });
      state.players.here += 1;
      return;
    }
    case "player.resumed": {
      const player = playerOf(state, event.player);
      if (player.presence === "away") state.players.here += 1;
      else countAsTold(player);
      player.presence = "here";
      player.connection = event.connection;
      clearDeadline(state.deadlines, "player-grace", event.player);
      return;
    }
    case "player.measured":
      playerOf(state, event.player).latency = event.latency;
      return;
    case "player.lost": {
      const player = playerOf(state, event.player);
      player.presence = "away";
      player.connection = null;
      countAsTold(player);
      state.players.here -= 1;
      setDeadline(state.deadlines, "player-grace", event.player, event.untilMs);
      return;
    }
    case "player.left":
      if (playerOf(state, event.player).presence === "here") state.players.here -= 1;
      byId.delete(event.player);
      clearDeadline(state.deadlines, "player-grace", event.player);
      return;
    default:
      assertNever(event);
  }
}

/** It is in that room now, or in none. */
export function putInRoom({ players }: RoomsPart, id: string, room: string | null): void {
  const player = players.byId.get(id);
  if (player) player.room = room;
}

/** So much of what has befallen a player is kept. */
const LATELY_MAX = 8;

/** Keeps what befalls a player: it may be away, or lost before it hears of it. */
export function befall({ players }: RoomsPart, id: string, what: Befallen): void {
  const player = players.byId.get(id);
  if (player === undefined) return;
  const { lately, told, revision: before } = player.own ?? { lately: [], told: 0, revision: 0 };
  const revision = before + 1;
  player.own = { revision, lately: [...lately, { ...what, revision }].slice(-LATELY_MAX), told };
}

type WithoutRevision<M> = M extends Missed ? Omit<M, "revision"> : never;
type Befallen = WithoutRevision<Missed>;

/** Until now it was connected, and so told at once. */
function countAsTold(player: Player): void {
  if (player.own) player.own = { ...player.own, told: player.own.revision };
}

/** Nobody is connected any more. `graceMs` is for players in a lobby; a room has its own. */
export function losePlayers(state: RoomsPart, graceMs: number, at: number): void {
  for (const player of state.players.byId.values()) {
    if (player.presence === "away") continue;
    player.presence = "away";
    player.connection = null;
    countAsTold(player);
    const ownMs = player.room === null ? undefined : state.rooms.byId.get(player.room)?.policy.graceMs;
    setDeadline(state.deadlines, "player-grace", player.id, at + (ownMs ?? graceMs));
  }
  state.players.here = 0;
}

/** The player an event speaks of; an event about nobody is a fault of ours. */
export function playerOf(state: RoomsPart, id: string): Player {
  const player = state.players.byId.get(id);
  if (player === undefined) throw new Error(`event about unknown player ${id}`);
  return player;
}
