import type { ReservedFor } from "@yellow-harbor/protocol";
import { clearDeadline, setDeadline } from "../../deadlines/index.ts";
import { nextEndOf, type Reservations, reservationKey } from "../../model/rooms/reservations.ts";
import type { Room } from "../../model/rooms/state.ts";
import type { RoomsPart } from "../../model/state.ts";

/** The places that a room keeps for somebody are these from now on. */
export function keep({ rooms: { keptFor }, deadlines }: RoomsPart, room: Room, reservations: Reservations): void {
  for (const key of room.reservations.keys()) {
    const rooms = keptFor.get(key);
    rooms?.delete(room.id);
    if (rooms?.size === 0) keptFor.delete(key);
  }
  for (const key of reservations.keys()) keptFor.set(key, (keptFor.get(key) ?? new Set()).add(room.id));
  room.reservations = reservations;
  const end = nextEndOf(reservations);
  if (end === undefined) clearDeadline(deadlines, "room-reservation", room.id);
  else setDeadline(deadlines, "room-reservation", room.id, end);
}

export function without(reservations: Reservations, one: ReservedFor): Reservations {
  const rest = new Map(reservations);
  rest.delete(reservationKey(one));
  return rest;
}
