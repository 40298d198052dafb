import type { PlayerArgs, PlayerId, PlayerReply, Revised } from "@yellow-harbor/protocol";
import { lobbies } from "../../lobbies/index.ts";
import type { Accepted } from "../../model/decision.ts";
import { accept, type Decision, nothingToDo, type ReplyOf, type RoomsContext, refuse } from "../../model/decision.ts";
import { revisionReply, roomOf, unknownMember, unknownRoom } from "../../model/find-room.ts";
import type { RoomCommand } from "../../model/rooms/commands.ts";
import type { RoomEvent } from "../../model/rooms/events.ts";
import { audienceOf, type Room } from "../../model/rooms/state.ts";
import type { RoomsPart } from "../../model/state.ts";
import { inheritance } from "../settings/board.ts";
import { leader } from "../settings/decide-votes.ts";
import { turnAfter } from "../settings/turn.ts";
import { unwatchedEvent } from "../watching/spectators.ts";
import { stopWatching } from "../watching/stop-watching.ts";
import { closing } from "./closing.ts";
import { nextHost } from "./handover.ts";

/** Role in an account token whose players may kick and ban in every room that they are in. */
const MODERATOR = "moderator";

type Doing<K extends RoomCommand["do"]> = Extract<RoomCommand, { do: K }>;

export function leave(context: RoomsContext, id: PlayerId): Decision<PlayerReply<"room.leave">> {
  const { state } = context;
  const player = state.players.byId.get(id);
  const room = player?.room == null ? undefined : state.rooms.byId.get(player.room);
  if (player === undefined || room === undefined)
    return refuse("not-in-room", "You are in no room, so there is none to leave.");
  if (room.spectators.has(id)) return stopWatching(room, player);
  const { lobby } = player;
  return departure(context, room, id, { reason: "left" }, (after) => ({ lobby: lobbies.views.lobby(after, lobby) }));
}

export function depart(context: RoomsContext, { player, room: id, reason }: Doing<"room.depart">): Decision {
  const room = context.state.rooms.byId.get(id);
  if (room?.spectators.has(player)) {
    return accept([unwatchedEvent(room, player, { reason: reason === "late" ? "left" : reason })]);
  }
  return room?.members.has(player) ? accept([departedEvent(context, room, player, { reason })]) : nothingToDo;
}

export function kick(
  context: RoomsContext,
  host: PlayerId,
  { player, reason, ban }: PlayerArgs<"room.kick">,
): Decision<Revised> {
  const found = governed(context, host, "kick a member");
  if ("refused" in found) return found;
  if (player === host) return refuse("member-unknown", "You cannot kick yourself; leave the room instead.");
  const by = found.room.host === host ? "host" : "moderator";
  return kickFrom(context, found.room, player, { by, reason, ban });
}

export function operatorKick(context: RoomsContext, command: Doing<"room.operator-kick">): Decision<Revised> {
  const { room: id, player, reason, ban } = command;
  const room = context.state.rooms.byId.get(id);
  return room === undefined ? unknownRoom(id) : kickFrom(context, room, player, { by: "operator", reason, ban });
}

/** The instance that runs its match removes a player: what follows in the match has happened there already. */
export function instanceKick(context: RoomsContext, command: Doing<"room.instance-kick">): Decision {
  const room = context.state.rooms.byId.get(command.room);
  if (room === undefined || !audienceOf(room).includes(command.player)) return nothingToDo;
  const { player, reason, ban } = command;
  return kickFrom(context, room, player, { by: "instance", reason, ban });
}

/** Keeps somebody from joining again; a member is kicked as well. */
export function ban(
  context: RoomsContext,
  { room: id, player, reason }: Doing<"room.operator-ban">,
): Decision<Revised> {
  const room = context.state.rooms.byId.get(id);
  if (room === undefined) return unknownRoom(id);
  if (audienceOf(room).includes(player)) return kickFrom(context, room, player, { by: "operator", reason, ban: true });
  if (room.banned.has(player)) return accept([], { reply: revisionReply(id) });
  return accept([{ kind: "room.banned", room: id, player, ...(reason !== undefined && { why: reason }) }], {
    reply: revisionReply(id),
  });
}

/** The room one is in, when one is its host, or a moderator by the word of the game's back end. */
const governed = ({ state }: RoomsContext, player: PlayerId, power: string) =>
  roomOf(state, player, isModerator(state, player) ? {} : { hostOnly: power });

const isModerator = ({ players }: Pick<RoomsPart, "players">, player: PlayerId): boolean =>
  players.byId.get(player)?.identity?.roles.includes(MODERATOR) === true;

/** The room in which somebody acts by the role of a moderator alone; undefined for its host, and for everybody else. */
export function moderatedRoom(state: RoomsPart, player: PlayerId): Room | undefined {
  const room = state.rooms.byId.get(state.players.byId.get(player)?.room ?? "");
  return room !== undefined && room.host !== player && isModerator(state, player) ? room : undefined;
}

export function unban(context: RoomsContext, host: PlayerId, { player }: PlayerArgs<"room.unban">): Decision<Revised> {
  const found = governed(context, host, "lift a ban");
  return "refused" in found ? found : liftBan(found.room, player);
}

export function operatorUnban(
  { state }: RoomsContext,
  { room: id, player }: Doing<"room.operator-unban">,
): Decision<Revised> {
  const room = state.rooms.byId.get(id);
  return room === undefined ? unknownRoom(id) : liftBan(room, player);
}

function liftBan(room: Room, player: PlayerId): Decision<Revised> {
  if (!room.banned.has(player)) {
    const names = [...room.banned.keys()].join(", ");
    return refuse("member-unknown", `${player} is not banned from room ${room.code}; banned are ${names || "none"}.`);
  }
  return accept([{ kind: "room.unbanned", room: room.id, player }], { reply: revisionReply(room.id) });
}

/** Puts the members out one by one; a reaction to each departure comes back here until nobody is left. */
export function dissolve(context: RoomsContext, { room: id, reason, by }: Doing<"room.dissolve">): Decision<Revised> {
  const room = context.state.rooms.byId.get(id);
  if (room === undefined) return unknownRoom(id);
  const last = [...room.members.keys()].at(-1);
  // A room that waits with nobody in it.
  if (last === undefined) {
    const { revision } = room;
    return accept(closing(room), { reply: () => ({ revision }) });
  }
  // The last to come goes first, so that the host does not change with each.
  const { revision } = room;
  const how = { reason: "closed", by, ...(reason !== undefined && { why: reason }) } as const;
  return departure(context, room, last, how, () => ({ revision }));
}

interface Kick {
  readonly by: "host" | "moderator" | "operator" | "instance";
  readonly reason: string | undefined;
  readonly ban: boolean;
}

function kickFrom(context: RoomsContext, room: Room, player: PlayerId, { by, reason, ban }: Kick): Decision<Revised> {
  const isWatching = room.spectators.has(player);
  if (!isWatching && !room.members.has(player)) return unknownMember(room, player);
  const how = { reason: "kicked", by, ...(reason !== undefined && { why: reason }), ...(ban && { ban }) } as const;
  const reply = (after: RoomsPart) => ({ revision: after.rooms.byId.get(room.id)?.revision ?? room.revision });
  if (isWatching) return accept([unwatchedEvent(room, player, how)], { reply });
  return departure(context, room, player, how, reply);
}

type How = Pick<Extract<RoomEvent, { kind: "room.departed" }>, "reason" | "by" | "why" | "ban" | "watches">;

function departure<Reply>(
  context: RoomsContext,
  room: Room,
  player: PlayerId,
  how: How,
  reply: ReplyOf<Reply>,
): Accepted<Reply> {
  return accept([departedEvent(context, room, player, how)], { reply });
}

/** A departure with all that goes with it: who is host then, whose turn it is, what becomes of the entries of the board. */
export function departedEvent({ at, rules }: RoomsContext, room: Room, player: PlayerId, how: How): RoomEvent {
  const name = room.members.get(player)?.name ?? player;
  const host = room.host === player ? nextHost(room, player) : undefined;
  const heir = host ?? (room.host === player ? undefined : (room.host ?? undefined));
  const { gone, passed } = inheritance(room, player, heir);
  const voided = [...room.members.values()].filter((one) => one.swapWith === player).map((one) => one.id);
  const hasChoice =
    room.policy.levelBy === "vote" && (room.stage.phase === "gathering" || room.stage.phase === "results");
  const leads = hasChoice ? leader(rules, room, { player, level: null }) : undefined;
  return {
    kind: "room.departed",
    room: room.id,
    lobby: room.lobby,
    player,
    name,
    ...how,
    ...(gone.length > 0 && { gone }),
    ...(passed.length > 0 && { passed }),
    ...(voided.length > 0 && { voided }),
    ...turnAfter(room, player, at),
    ...(leads && { leads }),
    ...((room.policy.clearsReady.includes("members") || (leads && room.policy.clearsReady.includes("level"))) && {
      unready: true as const,
    }),
    ...(host !== undefined && { host }),
  };
}
