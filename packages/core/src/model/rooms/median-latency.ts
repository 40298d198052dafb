import type { Room } from "./state.ts";

/** Median of the members' latencies, in milliseconds; undefined when none was measured. */
export function medianLatency(room: Room): number | undefined {
  const measured = [...room.members.values()].flatMap(({ latency }) => latency?.latencyMs ?? []).sort((a, b) => a - b);
  const middle = measured.length >> 1;
  if (measured.length % 2 === 1) return measured[middle];
  const [low, high] = [measured[middle - 1], measured[middle]];
  return low === undefined || high === undefined ? undefined : (low + high) / 2;
}
