import { builds } from "../builds/index.ts";
import { fleets } from "../fleets/index.ts";
import { lobbies } from "../lobbies/index.ts";
import type { EventKind, HarborEvent } from "../model/event.ts";
import type { HarborState } from "../model/state.ts";
import { parties } from "../parties/index.ts";
import { planner } from "../planner/index.ts";
import { players } from "../players/index.ts";
import { privateEntries } from "../private-entries/index.ts";
import { queues } from "../queues/index.ts";
import { ratings } from "../ratings/index.ts";
import { relations } from "../relations/index.ts";
import { rooms } from "../rooms/index.ts";

type Change<Event> = (event: Event, state: HarborState, at: number) => void;

/**
 * What an event changes beside its own capability's part of the state. Nothing is decided here, so it is done live and on
 * recovery alike.
 */
const changes: { readonly [K in EventKind]?: Change<Extract<HarborEvent, { kind: K }>> } = {
  "machine.enrolled": ({ machine, group }, state) => fleets.also.joined(state, machine, group),
  "machine.removed": ({ machine }, state) => fleets.also.gone(state, machine),
  "harbor.recovered": ({ graceMs }, state, at) => {
    players.also.lose(state, graceMs, at);
    lobbies.also.markAllAway(state);
    parties.also.markAllAway(state, at);
    rooms.also.markAllAway(state, at);
    queues.also.holdTickets(state, at);
  },
  // Whoever has no place under other rules is told at once, and whoever fits better is not kept waiting.
  "harbor.queue-rules-changed": ({ changed, gone }, state, at) => {
    for (const queue of [...changed, ...gone])
      if (state.queues.byName.has(queue)) queues.also.passSoon(state, queue, at);
  },

  // A player is in its lobby, or in one of its rooms.
  "player.left": ({ player }, state) => {
    queues.also.forgetPause(state, player);
    relations.also.forget(state, player);
  },
  // It is told so alone, and in no view: it is kept, for whoever does not hear of it.
  "lobby.joined": ({ player, because }, state, at) => {
    if (because) players.also.befall(state, player, { kind: "out-of-room", atMs: at, ...because });
  },
  // Likewise: who was removed from its party while it was away hears of it.
  "party.left": ({ party, player, cause, why }, state, at) => {
    if (cause !== "kicked") return;
    players.also.befall(state, player, {
      kind: "out-of-party",
      atMs: at,
      party,
      cause,
      ...(why !== undefined && { why }),
    });
  },
  "room.opened": ({ room, lobby, host, match }, state, at) => {
    const members = [host, ...(match?.others ?? []).map(({ id }) => id)];
    for (const player of members) players.also.putInRoom(state, player, room);
    lobbies.also.addRoom(state, lobby, room, at);
    lobbies.also.countInRooms(state, lobby, members.length, at);
    if (match) queues.also.linkRoom(state, match.id, room);
  },
  "room.set-up": ({ room, lobby }, state, at) => lobbies.also.addRoom(state, lobby, room, at),
  "room.joined": ({ room, player }, state, at) => {
    players.also.putInRoom(state, player, room);
    lobbies.also.countInRooms(state, lobbyOf(state, room), 1, at);
  },
  "room.departed": ({ room, player }, state, at) => {
    players.also.putInRoom(state, player, null);
    lobbies.also.countInRooms(state, lobbyOf(state, room), -1, at);
  },
  "room.watched": ({ room, player }, state) => players.also.putInRoom(state, player, room),
  "room.unwatched": ({ player }, state) => players.also.putInRoom(state, player, null),
  "room.closed": ({ room, lobby }, state, at) => {
    lobbies.also.removeRoom(state, lobby, room, at);
    privateEntries.also.forgetRoom(state, room);
    queues.also.unlinkRoom(state, room);
    ratings.also.unwatch(state, room);
  },

  // Who has reached the place that the room goes to.
  "travel.arrived": ({ room, player }, state) => rooms.also.markAboard(state, room, player, true),
  "travel.followed": ({ room, player }, state) => rooms.also.markAboard(state, room, player, true),
  "travel.ashore": ({ room, player }, state) => rooms.also.markAboard(state, room, player, false),
  "travel.retried": ({ room }, state) => rooms.also.markAllAshore(state, room),
  "travel.rerouted": ({ room }, state) => rooms.also.markAllAshore(state, room),
};

/** The same for all events of a capability. */
const ofAll: { readonly [P in "queue" | "instance"]: Change<Extract<HarborEvent, { kind: `${P}.${string}` }>> } = {
  queue: (event, state, at) => {
    for (const { player, ...ending } of queues.views.endings(state, event)) {
      players.also.befall(state, player, { kind: "ticket-ended", atMs: at, ...ending });
    }
    lobbies.also.countSearching(state, at);
  },
  // What a pool and a version learn from their instances.
  instance: (event, state, at) => {
    builds.also.count(state, event);
    const pool = state.pools.instances.get(event.instance)?.pool;
    if (pool !== undefined) planner.also.learn(state, event, pool, at);
  },
};

const lobbyOf = ({ rooms }: HarborState, room: string): string => rooms.byId.get(room)?.lobby ?? "";

export function changeAlso(event: HarborEvent, state: HarborState, at: number): void {
  const change = changes[event.kind] as Change<HarborEvent> | undefined;
  change?.(event, state, at);
  const all = ofAll[event.kind.slice(0, event.kind.indexOf(".")) as keyof typeof ofAll] as
    | Change<HarborEvent>
    | undefined;
  all?.(event, state, at);
}
