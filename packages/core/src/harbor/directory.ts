import type { HarborEvent } from "../model/event.ts";
import type { RoomEvent } from "../model/rooms/events.ts";
import type { HarborState } from "../model/state.ts";
import { rooms } from "../rooms/index.ts";

const isOfRoom = (event: HarborEvent): event is RoomEvent => event.kind.startsWith("room.");

/** The index of listed rooms is the harbor's own: it is told which of them may be listed in another way. */
export function refreshDirectory({ derived, rooms: { byId } }: HarborState, event: HarborEvent): void {
  if (event.kind === "harbor.recovered") for (const room of byId.keys()) derived.directory.touch(room);
  if (isOfRoom(event) && rooms.directory.isSeen(event)) derived.directory.touch(event.room);
}
