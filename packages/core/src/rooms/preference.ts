import type { SeekPreference } from "../harbor/rules.ts";
import type { Room } from "./state.ts";

/** What is compared, the smaller the better. */
const measures: { readonly [P in SeekPreference]: (room: Room) => number } = {
  places: (room) => room.capacity - room.members.size,
  latency: (room) => medianLatency(room) ?? Number.MAX_SAFE_INTEGER,
  age: (room) => room.openedAtMs,
};

/** The best room in the order of preference: by the first measure, then by the next, ties by id. */
export function bestOf(rooms: readonly Room[], preferences: readonly SeekPreference[]): Room | undefined {
  let best: Room | undefined;
  for (const room of rooms) if (best === undefined || isBetter(room, best, preferences)) best = room;
  return best;
}

function isBetter(room: Room, other: Room, preferences: readonly SeekPreference[]): boolean {
  for (const preference of preferences) {
    const difference = measures[preference](room) - measures[preference](other);
    if (difference !== 0) return difference < 0;
  }
  return room.id < other.id;
}

/** Median of the members' latencies, in milliseconds; undefined when none was measured. */
export function medianLatency(room: Room): number | undefined {
  const measured = [...room.members.values()].flatMap(({ latency }) => latency?.latencyMs ?? []).sort((a, b) => a - b);
  const middle = measured.length >> 1;
  if (measured.length % 2 === 1) return measured[middle];
  const [low, high] = [measured[middle - 1], measured[middle]];
  return low === undefined || high === undefined ? undefined : (low + high) / 2;
}
