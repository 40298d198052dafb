import type { Revised } from "@yellow-harbor/protocol";
import { accept, type Decision, type RoomsContext, refuse } from "../../model/decision.ts";
import { memberName, revisionReply, unknownSide } from "../../model/find-room.ts";
import type { OperatorRoomCommand } from "../../model/rooms/commands.ts";
import type { RoomEvent } from "../../model/rooms/events.ts";
import { openPlaces, reservationKey } from "../../model/rooms/reservations.ts";
import { freeSide } from "../../model/rooms/sides.ts";
import type { Room } from "../../model/rooms/state.ts";
import { operatedRoom } from "./decide-operated.ts";

type Doing<K extends OperatorRoomCommand["do"]> = Extract<OperatorRoomCommand, { do: K }>;

/** Keeps a place for somebody; who has one already keeps it for as long as is said now. */
export function reserve(context: RoomsContext, command: Doing<"room.operator-reserve">): Decision<Revised> {
  const room = operatedRoom(context, command);
  if ("refused" in room) return room;
  const { for: who, name, side, forMs } = command.place;
  const present = memberOf(context, room, who);
  if (present !== undefined) {
    return refuse("already-in-room", `${memberName(room, present)} is in room ${room.code} already.`);
  }
  const own = room.reservations.get(reservationKey(who));
  if (own === undefined && openPlaces(room) <= 0) {
    const kept = room.reservations.size === 0 ? "" : ` and ${room.reservations.size} kept for somebody`;
    const detail = `Room ${room.code} is full: ${room.members.size} of ${room.capacity} places are taken${kept}.`;
    return refuse("room-full", detail);
  }
  const unknown = side === undefined ? undefined : unknownSide(room, side);
  if (unknown) return unknown;
  if (side !== undefined && !freeSide(room, side, own)) {
    return refuse("side-full", `Side ${side} of room ${room.code} is full.`);
  }
  const reserved: RoomEvent = {
    kind: "room.place-reserved",
    room: room.id,
    for: who,
    name: name ?? own?.name ?? null,
    side: side ?? own?.side ?? null,
    untilMs: context.at + forMs,
  };
  return accept([reserved], { reply: revisionReply(room.id) });
}

export function cancel(context: RoomsContext, command: Doing<"room.operator-cancel">): Decision<Revised> {
  const room = operatedRoom(context, command);
  if ("refused" in room) return room;
  const { for: who } = command;
  if (!room.reservations.has(reservationKey(who))) {
    const id = "account" in who ? who.account : who.player;
    return refuse("reservation-unknown", `No place of room ${room.code} is kept for ${id}.`);
  }
  return accept([{ kind: "room.reservation-ended", room: room.id, for: who, cause: "cancelled" }], {
    reply: revisionReply(room.id),
  });
}

/** Those whose time is over. */
export function reservationsLate({ state, at }: RoomsContext, id: string): Decision {
  const late = [...(state.rooms.byId.get(id)?.reservations.values() ?? [])].filter(({ untilMs }) => untilMs <= at);
  return accept(
    late.map((one): RoomEvent => ({ kind: "room.reservation-ended", room: id, for: one.for, cause: "expired" })),
  );
}

function memberOf({ state }: RoomsContext, { members }: Room, who: Doing<"room.operator-cancel">["for"]) {
  if ("player" in who) return members.has(who.player) ? who.player : undefined;
  const player = state.players.byAccount.get(who.account);
  return player !== undefined && members.has(player) ? player : undefined;
}
