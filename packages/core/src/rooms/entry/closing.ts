import type { RoomEvent } from "../../model/rooms/events.ts";
import type { Room } from "../../model/rooms/state.ts";

/** An empty room closes: whoever a place was kept for learns that first. */
export const closing = ({ id: room, lobby, code, reservations }: Room): RoomEvent[] => [
  ...[...reservations.values()].map((one): RoomEvent => {
    return { kind: "room.reservation-ended", room, for: one.for, cause: "closed" };
  }),
  { kind: "room.closed", room, lobby, code },
];
