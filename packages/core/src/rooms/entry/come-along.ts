import type { PlayerId } from "@yellow-harbor/protocol";
import { accept, type Decision, nothingToDo, type RoomsContext } from "../../model/decision.ts";
import type { RoomCommand } from "../../model/rooms/commands.ts";
import { reservationOf } from "../../model/rooms/reservations.ts";
import { freeSide } from "../../model/rooms/sides.ts";
import type { RoomsPart } from "../../model/state.ts";
import { joinFor, joiningPlayerOf } from "./joining.ts";

/** One of a party follows its leader into a room, onto the leader's side while that has a place. */
export function comeAlong(
  context: RoomsContext,
  { room: id, player }: Extract<RoomCommand, { do: "room.come-along" }>,
): Decision {
  const { state } = context;
  const room = state.rooms.byId.get(id);
  const leader = leaderOf(state, player);
  if (room === undefined || leader === undefined || room.members.has(player)) return nothingToDo;
  const joining = joiningPlayerOf(context, player, { move: true, alone: true }, room);
  if ("refused" in joining) return joining;
  const side = room.members.get(leader)?.side ?? undefined;
  const own = reservationOf(room, joining.player);
  const beside = side !== undefined && own?.side == null && freeSide(room, side, own) ? side : undefined;
  const joined = joinFor(context, joining, room, { byCode: true, isTrusted: true, side: beside, with: leader });
  return "refused" in joined ? joined : accept(joined.events);
}

function leaderOf({ parties }: RoomsPart, player: PlayerId): PlayerId | undefined {
  return parties.byId.get(parties.byPlayer.get(player) ?? "")?.leader;
}
