import type { PlayerArgs, PlayerId } from "@yellow-harbor/protocol";
import { accept, type Decision, type Moment, nothingToDo, type ReplyOf, refuse } from "../harbor/decision.ts";
import { lobbyView } from "../lobbies/index.ts";
import { inheritance } from "./board.ts";
import type { RoomCommand } from "./commands.ts";
import type { RoomEvent } from "./events.ts";
import { roomOf } from "./find.ts";
import { nextHost } from "./handover.ts";
import type { Room } from "./state.ts";

type Doing<K extends RoomCommand["do"]> = Extract<RoomCommand, { do: K }>;

export function leave({ state }: Moment, id: PlayerId): Decision {
  const player = state.players.byId.get(id);
  const room = player?.room == null ? undefined : state.rooms.byId.get(player.room);
  if (player === undefined || room === undefined)
    return refuse("not-in-room", "You are in no room, so there is none to leave.");
  const { lobby } = player;
  return departure(room, id, { reason: "left" }, (after) => ({ lobby: lobbyView(after, lobby) }));
}

export function depart({ state }: Moment, { player, room: id, reason }: Doing<"room.depart">): Decision {
  const room = state.rooms.byId.get(id);
  return room?.members.has(player) ? departure(room, player, { reason }) : nothingToDo;
}

export function putOut(moment: Moment, host: PlayerId, { player, reason, ban }: PlayerArgs<"room.put-out">): Decision {
  const found = roomOf(moment.state, host, { hostOnly: "put a member out" });
  if ("refused" in found) return found;
  if (player === host) return refuse("member-unknown", "You cannot put yourself out; leave the room instead.");
  return putOutOf(found.room, player, { by: "host", reason, ban });
}

export function operatorPutOut(
  { state }: Moment,
  { room: id, player, reason, ban }: Doing<"room.operator-put-out">,
): Decision {
  const room = state.rooms.byId.get(id);
  if (room === undefined) return refuse("room-unknown", `There is no room ${id}; it may have closed.`);
  return putOutOf(room, player, { by: "operator", reason, ban });
}

/** Puts the members out one by one; a reaction to each departure comes back here until nobody is left. */
export function dissolve({ state }: Moment, { room: id, reason }: Doing<"room.dissolve">): Decision {
  const room = state.rooms.byId.get(id);
  if (room === undefined) return refuse("room-unknown", `There is no room ${id}; it may have closed.`);
  const last = [...room.members.keys()].at(-1);
  if (last === undefined) return nothingToDo;
  // The last to come goes first, so that the host does not change with each.
  const { revision } = room;
  return departure(
    room,
    last,
    { reason: "closed", by: "operator", ...(reason !== undefined && { why: reason }) },
    () => ({ revision }),
  );
}

interface PuttingOut {
  readonly by: "host" | "operator";
  readonly reason: string | undefined;
  readonly ban: boolean;
}

function putOutOf(room: Room, player: PlayerId, { by, reason, ban }: PuttingOut): Decision {
  if (!room.members.has(player)) {
    return refuse(
      "member-unknown",
      `${player} is not in room ${room.code}; its members are ${[...room.members.keys()].join(", ")}.`,
    );
  }
  const how = { reason: "put-out", by, ...(reason !== undefined && { why: reason }), ...(ban && { ban }) } as const;
  return departure(room, player, how, (after) => ({
    revision: after.rooms.byId.get(room.id)?.revision ?? room.revision,
  }));
}

type How = Pick<Extract<RoomEvent, { kind: "room.departed" }>, "reason" | "by" | "why" | "ban">;

function departure(room: Room, player: PlayerId, how: How, reply?: ReplyOf): Decision {
  const name = room.members.get(player)?.name ?? player;
  const host = room.host === player ? nextHost(room, player) : undefined;
  const { gone, passed } = inheritance(room, player, host ?? (room.host === player ? undefined : room.host));
  const board = { ...(gone.length > 0 && { gone }), ...(passed.length > 0 && { passed }) };
  const event = { kind: "room.departed", room: room.id, lobby: room.lobby, player, name, ...how, ...board } as const;
  return accept([host === undefined ? event : { ...event, host }], { ...(reply && { reply }) });
}
