import type { PlayerArgs, PlayerId, Revised } from "@yellow-harbor/protocol";
import { accept, type Decision, type Refusal, type RoomsContext, refuse } from "../../model/decision.ts";
import { gatheringRoomOf, revisionReply, unknownMember, unknownSide } from "../../model/find-room.ts";
import { evenOut, freeSide } from "../../model/rooms/sides.ts";
import type { Member, Room } from "../../model/rooms/state.ts";

const unsettles = (room: Room): { unready?: true } =>
  room.policy.clearsReady.includes("sides") ? { unready: true } : {};

export function take(
  { state }: RoomsContext,
  player: PlayerId,
  { place, side }: PlayerArgs<"room.move-to">,
): Decision<Revised> {
  const found = gatheringRoomOf(state, player);
  if ("refused" in found) return found;
  const { room, member } = found;
  const unfit = unfitPlace(room, member, place) ?? unfitSide(room, member, side);
  if (unfit) return unfit;
  const wanted = { place: place ?? member.place, side: side ?? member.side };
  if (wanted.place === member.place && wanted.side === member.side)
    return accept([], { reply: revisionReply(room.id) });
  return accept([{ kind: "room.moved", room: room.id, player, ...wanted, ...unsettles(room) }], {
    reply: revisionReply(room.id),
  });
}

function unfitPlace(room: Room, { id }: Member, place: number | undefined): Refusal | undefined {
  if (place === undefined) return undefined;
  if (place >= room.capacity) {
    const fields = [{ path: "args.place", message: `expected 0 to ${room.capacity - 1}` }];
    return refuse("request-invalid", `There is no place ${place} in a room for ${room.capacity}.`, { fields });
  }
  const other = [...room.members.values()].find((one) => one.place === place && one.id !== id);
  if (other === undefined) return undefined;
  return refuse("place-taken", `Place ${place} is ${other.name}'s; offer to swap with room.swap, or take a free one.`);
}

function unfitSide(room: Room, { side: present }: Member, side: string | undefined): Refusal | undefined {
  if (side === undefined) return undefined;
  const unknown = unknownSide(room, side);
  if (unknown) return unknown;
  if (side === present || freeSide(room, side)) return undefined;
  const max = room.policy.sides?.max;
  return refuse("side-full", `Side ${side} is full with ${max}; offer somebody there to swap with room.swap.`);
}

/** An offer; and once the other has offered the same, the change itself. */
export function swap(
  { state }: RoomsContext,
  player: PlayerId,
  { with: other }: PlayerArgs<"room.swap">,
): Decision<Revised> {
  const found = gatheringRoomOf(state, player);
  if ("refused" in found) return found;
  const { room, member } = found;
  const partner = room.members.get(other);
  if (partner === undefined) return unknownMember(room, other);
  const reply = revisionReply(room.id);
  const offered = other === player ? null : other;
  if (offered !== null && partner.swapWith === player) {
    return accept([{ kind: "room.swapped", room: room.id, players: [player, other], ...unsettles(room) }], { reply });
  }
  if (member.swapWith === offered) return accept([], { reply });
  return accept([{ kind: "room.swap-offered", room: room.id, player, with: offered }], { reply });
}

export function balance({ state }: RoomsContext, player: PlayerId): Decision<Revised> {
  const found = gatheringRoomOf(state, player, { hostOnly: "balance the sides" });
  if ("refused" in found) return found;
  const { room } = found;
  const { sides } = room.policy;
  if (sides === null) return refuse("side-unknown", `Rooms of kind ${room.kind} have no sides to balance.`);
  const moved = evenOut([...room.members.values()], sides.names);
  const reply = revisionReply(room.id);
  if (moved.length === 0) return accept([], { reply });
  return accept([{ kind: "room.balanced", room: room.id, by: player, moved, ...unsettles(room) }], { reply });
}
