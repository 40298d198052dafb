import type { QuickJoinPreference } from "@yellow-harbor/protocol";
import { medianLatency } from "../../model/rooms/median-latency.ts";
import { openPlaces } from "../../model/rooms/reservations.ts";
import type { Room } from "../../model/rooms/state.ts";

/** What is compared, the smaller the better. */
const measures: { readonly [P in QuickJoinPreference]: (room: Room) => number } = {
  places: (room) => openPlaces(room),
  latency: (room) => medianLatency(room) ?? Number.MAX_SAFE_INTEGER,
  age: (room) => room.openedAtMs,
};

/** The best room in the order of preference: by the first measure, then by the next, ties by id. */
export function bestOf(rooms: readonly Room[], preferences: readonly QuickJoinPreference[]): Room | undefined {
  let best: Room | undefined;
  for (const room of rooms) if (best === undefined || isBetter(room, best, preferences)) best = room;
  return best;
}

function isBetter(room: Room, other: Room, preferences: readonly QuickJoinPreference[]): boolean {
  for (const preference of preferences) {
    const difference = measures[preference](room) - measures[preference](other);
    if (difference !== 0) return difference < 0;
  }
  return room.id < other.id;
}
