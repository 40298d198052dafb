import type { PlayerId } from "@yellow-harbor/protocol";
import { type Decision, type Moment, refuse } from "../harbor/decision.ts";
import type { Member, Room } from "./state.ts";

export type Refusal = Extract<Decision, { refused: unknown }>;
type Found = { readonly room: Room; readonly member: Member } | Refusal;

/** The room the player is in, or why the request is refused. `hostOnly` names the power that is asked for. */
export function roomOf(state: Moment["state"], player: PlayerId, { hostOnly }: { hostOnly?: string } = {}): Found {
  const id = state.players.byId.get(player)?.room;
  const room = id == null ? undefined : state.rooms.byId.get(id);
  const member = room?.members.get(player);
  if (room === undefined || member === undefined) {
    return refuse("not-in-room", "You are in no room; open one or join one first.") as Refusal;
  }
  if (hostOnly !== undefined && room.host !== player) {
    const host = room.members.get(room.host)?.name ?? "another member";
    return refuse("not-host", `Only the host may ${hostOnly}; the host of room ${room.code} is ${host}.`) as Refusal;
  }
  return { room, member };
}

/** The same, and the room must be gathering. */
export function gatheringRoomOf(state: Moment["state"], player: PlayerId, powers: { hostOnly?: string } = {}): Found {
  const found = roomOf(state, player, powers);
  if ("refused" in found || found.room.phase === "gathering") return found;
  return wrongPhase(found.room);
}

export const wrongPhase = ({ code, phase }: Room): Refusal =>
  refuse("wrong-phase", `Room ${code} is ${phase}; this works only while it is gathering.`) as Refusal;

/** The reply of a change: the room's revision after it. */
export const revisionReply = (id: string) => (state: Moment["state"]) => ({
  revision: state.rooms.byId.get(id)?.revision ?? 0,
});
