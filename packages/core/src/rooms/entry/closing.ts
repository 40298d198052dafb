import type { RoomEvent } from "../../model/rooms/events.ts";
import type { Room } from "../../model/rooms/state.ts";
import { unwatchedEvent } from "../watching/spectators.ts";

/** An empty room closes: whoever looks on, or has a place kept, learns that first. */
export const closing = (one: Room): RoomEvent[] => [
  ...[...one.spectators.keys()].map((player) => unwatchedEvent(one, player, { reason: "closed" })),
  ...closingItself(one),
];

const closingItself = ({ id: room, lobby, code, reservations }: Room): RoomEvent[] => [
  ...[...reservations.values()].map((one): RoomEvent => {
    return { kind: "room.reservation-ended", room, for: one.for, cause: "closed" };
  }),
  { kind: "room.closed", room, lobby, code },
];
