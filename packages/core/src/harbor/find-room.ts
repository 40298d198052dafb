import { type PlayerId, phaseWords } from "@yellow-harbor/protocol";
import type { Member, Room } from "../rooms/state.ts";
import { type Decision, type Moment, refuse } from "./decision.ts";

export type Refusal = Extract<Decision, { refused: unknown }>;
type Found = { readonly room: Room; readonly member: Member } | Refusal;

/** Refuses; for those who return something else when they do not. */
export const refusal = (...words: Parameters<typeof refuse>): Refusal => refuse(...words) as Refusal;

/** The room the player is in, or why the request is refused. `hostOnly` names the power that is asked for. */
export function roomOf(state: Moment["state"], player: PlayerId, { hostOnly }: { hostOnly?: string } = {}): Found {
  const id = state.players.byId.get(player)?.room;
  const room = id == null ? undefined : state.rooms.byId.get(id);
  const member = room?.members.get(player);
  if (room === undefined || member === undefined) {
    return refusal("not-in-room", "You are in no room; open one or join one first.");
  }
  if (hostOnly !== undefined && room.host !== player) {
    return refusal("not-host", `Only the host may ${hostOnly}; the host of room ${room.code} is ${hostName(room)}.`);
  }
  return { room, member };
}

/** The same, and the room must be gathering. */
export function gatheringRoomOf(state: Moment["state"], player: PlayerId, powers: { hostOnly?: string } = {}): Found {
  const found = roomOf(state, player, powers);
  if ("refused" in found || found.room.stage.phase === "gathering") return found;
  return wrongPhase(found.room);
}

/** The same, and the room must be gathering or showing results: `what` says for what. */
export function gatheringOrResults(state: Moment["state"], player: PlayerId, what: string): Found {
  const found = roomOf(state, player);
  if ("refused" in found || found.room.stage.phase === "gathering" || found.room.stage.phase === "results")
    return found;
  const { code, stage } = found.room;
  return refusal(
    "wrong-phase",
    `Room ${code} ${phaseWords[stage.phase]}; ${what} while it is gathering or shows results.`,
  );
}

export const hostName = (room: Room): string => memberName(room, room.host ?? "") ?? "nobody at the moment";

export const memberName = (room: Room, id: PlayerId): string | undefined => room.members.get(id)?.name;

export const wrongPhase = ({ code, stage }: Room): Refusal =>
  refusal("wrong-phase", `Room ${code} ${phaseWords[stage.phase]}; this works only while it is gathering.`);

export const unknownRoom = (id: string): Refusal =>
  refusal("room-unknown", `There is no room ${id}; it may have closed.`);

export const unknownMember = (room: Room, id: PlayerId): Refusal =>
  refusal(
    "member-unknown",
    `${id} is not in room ${room.code}; its members are ${[...room.members.keys()].join(", ")}.`,
  );

/** The reply of a change: the room's revision after it. */
export const revisionReply = (id: string) => (state: Moment["state"]) => ({
  revision: state.rooms.byId.get(id)?.revision ?? 0,
});

export { type Member, placeOf, type Room, runOf } from "../rooms/state.ts";
