import type { PlayerId, RoomUpdate, SpectatorView } from "@yellow-harbor/protocol";
import { only, recordOf } from "../../model/record.ts";
import { ban } from "../../model/rooms/bans.ts";
import type { RoomEvent } from "../../model/rooms/events.ts";
import type { Room, Spectator } from "../../model/rooms/state.ts";
import type { RoomsPart } from "../../model/state.ts";
import type { UpdateAndPatch } from "../updates/update-patch.ts";

type Unwatched = Extract<RoomEvent, { kind: "room.unwatched" }>;

export function unwatchedEvent(
  { id: room, lobby, spectators }: Room,
  player: PlayerId,
  how: Pick<Unwatched, "reason" | "by" | "why" | "ban">,
): Unwatched {
  return { kind: "room.unwatched", room, lobby, player, name: spectators.get(player)?.name ?? player, ...how };
}

/** What happens to those who look on. */
export type WatchingEvent = Extract<RoomEvent, { kind: "room.watched" | "room.unwatched" | "room.spectator-changed" }>;

export function applyWatching({ players }: RoomsPart, room: Room, event: WatchingEvent): void {
  const { player: id } = event;
  switch (event.kind) {
    case "room.watched":
      room.spectators.set(id, { id, name: event.name, place: event.place, presence: "here", awayUntilMs: null });
      return;
    case "room.unwatched":
      room.spectators.delete(id);
      if (event.ban) ban(room, id, players.byId.get(id));
      return;
    case "room.spectator-changed": {
      const known = room.spectators.get(id);
      if (known === undefined) throw new Error(`event about ${id}, who does not watch room ${room.id}`);
      const awayUntilMs = event.presence === "away" ? event.untilMs : null;
      room.spectators.set(id, { ...known, presence: event.presence, awayUntilMs });
      return;
    }
  }
}

/** All spectators of a room are away. Returns whether any of them was not. */
export function spectatorsAway(room: Room, at: number): boolean {
  let anybody = false;
  for (const one of room.spectators.values()) {
    if (one.presence === "away") continue;
    room.spectators.set(one.id, { ...one, presence: "away", awayUntilMs: at + room.policy.graceMs });
    anybody = true;
  }
  return anybody;
}

export const spectatorView = ({ id, name, presence, awayUntilMs }: Spectator): SpectatorView => ({
  id,
  name,
  presence,
  ...(awayUntilMs !== null && { awayUntilMs }),
});

/** Who looks on, and under which rules; nothing where the room kind has no spectators. */
export function spectatorsView({ policy, spectators }: Room) {
  if (policy.spectators == null) return undefined;
  const { max, delayMs } = policy.spectators;
  const players = recordOf([...spectators.values()].map((one) => [one.id, spectatorView(one)]));
  return { max, delayMs, players };
}

export function watchingUpdate(room: Room, event: WatchingEvent): UpdateAndPatch {
  const { player } = event;
  const known = room.spectators.get(player);
  const patch = {
    spectators: { players: only(player, known ? { awayUntilMs: null, ...spectatorView(known) } : null) },
  };
  return { update: updateOf(event), patch };
}

function updateOf(event: WatchingEvent): RoomUpdate {
  const { player } = event;
  switch (event.kind) {
    case "room.watched":
      return { kind: "spectator-joined", player, name: event.name };
    case "room.unwatched":
      return { kind: "spectator-left", player, reason: event.reason };
    case "room.spectator-changed":
      return { kind: event.presence === "away" ? "spectator-away" : "spectator-back", player };
  }
}
