import type { Missed } from "@yellow-harbor/protocol";
import { clearDeadline, setDeadline } from "../deadlines/index.ts";
import { assertNever } from "../model/decision.ts";
import type { UsedToken } from "../model/players/commands.ts";
import type { PlayerEvent } from "../model/players/events.ts";
import type { Player } from "../model/players/state.ts";
import type { RoomsPart } from "../model/state.ts";

export function applyPlayer(state: RoomsPart, event: PlayerEvent, at: number): void {
  const { byId } = state.players;
  switch (event.kind) {
    case "player.connected": {
      const { player: id, name, build, lobby, connection, identity = null, origin = null, token, uniqueName } = event;
      const resume = { given: 1, shown: 0 };
      const how = { presence: "here", connection, latency: null } as const;
      const unique = uniqueName !== undefined && { uniqueName };
      byId.set(id, { id, name, build, lobby, room: null, identity, origin, resume, ...unique, ...how });
      if (uniqueName !== undefined) state.players.uniqueNames.set(uniqueName, id);
      if (identity) state.players.byAccount.set(identity.account, id);
      if (token) useToken(state, token, at);
      state.players.here += 1;
      return;
    }
    case "player.resumed": {
      const player = playerOf(state, event.player);
      if (player.presence === "away") state.players.here += 1;
      else countAsTold(player);
      player.presence = "here";
      player.connection = event.connection;
      player.resume = { given: player.resume.given + 1, shown: event.shown ?? player.resume.shown };
      clearDeadline(state.deadlines, "player-grace", event.player);
      return;
    }
    case "player.identified": {
      const player = playerOf(state, event.player);
      if (player.identity) state.players.byAccount.delete(player.identity.account);
      player.identity = event.identity;
      state.players.byAccount.set(event.identity.account, event.player);
      if (event.token) useToken(state, event.token, at);
      return;
    }
    case "player.attributes-set":
      playerOf(state, event.player).attributes = event.attributes;
      return;
    case "player.lobby-switched": {
      const player = playerOf(state, event.player);
      player.lobby = event.lobby;
      state.players.uniqueNames.delete(player.uniqueName ?? "");
      delete player.uniqueName;
      if (event.uniqueName === undefined) return;
      player.uniqueName = event.uniqueName;
      state.players.uniqueNames.set(event.uniqueName, event.player);
      return;
    }
    case "player.invites-muted":
      playerOf(state, event.player).invitesMuted = event.muted;
      playerOf(state, event.player).invitesOfFriends = event.exceptFriends === true;
      return;
    case "player.reported":
      return;
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
      forgetAccount(state, event.player);
      state.players.uniqueNames.delete(byId.get(event.player)?.uniqueName ?? "");
      byId.delete(event.player);
      clearDeadline(state.deadlines, "player-grace", event.player);
      return;
    default:
      assertNever(event);
  }
}

function forgetAccount({ players }: RoomsPart, id: string): void {
  const account = players.byId.get(id)?.identity?.account;
  if (account !== undefined && players.byAccount.get(account) === id) players.byAccount.delete(account);
}

/** Tokens that have ended need not be known any more: whoever shows one is refused for that. */
function useToken({ players: { usedTokens } }: RoomsPart, { id, untilMs }: UsedToken, at: number): void {
  usedTokens.set(id, untilMs);
  for (const [known, endsAtMs] of usedTokens) {
    if (endsAtMs > at) break;
    usedTokens.delete(known);
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
