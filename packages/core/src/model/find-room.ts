import { type PlayerId, phaseWords } from "@yellow-harbor/protocol";
import { type Refusal, refuse } from "./decision.ts";
import type { Member, Room } from "./rooms/state.ts";
import type { RoomSeen, RoomsSeen } from "./seen.ts";
import type { RoomsPart } from "./state.ts";

type Found = { readonly room: Room; readonly member: Member } | Refusal;

/** The room the player is in, or why the request is refused. `hostOnly` names the power that is asked for. */
export function roomOf(state: RoomsPart, player: PlayerId, { hostOnly }: { hostOnly?: string } = {}): Found {
  const id = state.players.byId.get(player)?.room;
  const room = id == null ? undefined : state.rooms.byId.get(id);
  const member = room?.members.get(player);
  if (room === undefined || member === undefined) {
    return room?.spectators.has(player) ? onlyWatching(room) : inNoRoom();
  }
  if (hostOnly !== undefined && room.host !== player) return notHost(room, hostOnly);
  return { room, member };
}

/** The same for who sees of rooms only what they are told. */
export function ownRoom(rooms: RoomsSeen, player: PlayerId, power: string): { readonly room: RoomSeen } | Refusal {
  const room = rooms.room(rooms.player(player)?.room ?? "");
  if (room === undefined || !room.members.has(player)) return inNoRoom();
  return room.host === player ? { room } : notHost(room, power);
}

const onlyWatching = ({ code }: Pick<Room, "code">): Refusal =>
  refuse("only-watching", `You only look on in room ${code}; with room.join you become a member.`);

const inNoRoom = (): Refusal => refuse("not-in-room", "You are in no room; open one or join one first.");

const notHost = (room: RoomSeen, power: string): Refusal =>
  refuse("not-host", `Only the host may ${power}; the host of room ${room.code} is ${hostName(room)}.`);

/** The same, and the room must be gathering. */
export function gatheringRoomOf(state: RoomsPart, player: PlayerId, powers: { hostOnly?: string } = {}): Found {
  const found = roomOf(state, player, powers);
  if ("refused" in found || found.room.stage.phase === "gathering") return found;
  return wrongPhase(found.room);
}

/** The same, and the room must be gathering or showing results: `what` says for what. */
export function gatheringOrResults(state: RoomsPart, player: PlayerId, what: string): Found {
  const found = roomOf(state, player);
  if ("refused" in found || found.room.stage.phase === "gathering" || found.room.stage.phase === "results")
    return found;
  const { code, stage } = found.room;
  return refuse(
    "wrong-phase",
    `Room ${code} ${phaseWords[stage.phase]}; ${what} while it is gathering or shows results.`,
  );
}

export const hostName = (room: Pick<Room, "host" | "members">): string =>
  memberName(room, room.host ?? "") ?? "nobody at the moment";

export const memberName = (room: Pick<Room, "members">, id: PlayerId): string | undefined => room.members.get(id)?.name;

export const wrongPhase = ({ code, stage }: Room): Refusal =>
  refuse("wrong-phase", `Room ${code} ${phaseWords[stage.phase]}; this works only while it is gathering.`);

export const unknownRoom = (id: string): Refusal =>
  refuse("room-unknown", `There is no room ${id}; it may have closed.`);

export const unknownMember = (room: Room, id: PlayerId): Refusal =>
  refuse(
    "member-unknown",
    `${id} is not in room ${room.code}; its members are ${[...room.members.keys()].join(", ")}.`,
  );

/** Why nobody can be on a side of a room, when the room has none of that name. */
export function unknownSide({ code, policy }: Room, side: string): Refusal | undefined {
  const accepted = [...(policy.sides?.names ?? [])];
  if (accepted.includes(side)) return undefined;
  const detail = accepted.length === 0 ? "it has none" : `its sides are ${accepted.join(", ")}`;
  return refuse("side-unknown", `Room ${code} has no side ${side}; ${detail}.`, { accepted });
}

/** The reply of a change: the room's revision after it. */
export const revisionReply = (id: string) => (state: RoomsPart) => ({
  revision: state.rooms.byId.get(id)?.revision ?? 0,
});

export { type Member, placeOf, type Room, runOf } from "./rooms/state.ts";
