import { type DeadlineKind, hasDeadline } from "../deadlines/index.ts";
import { lobbyFaults } from "../lobbies/index.ts";
import { poolFaults } from "../pools/index.ts";
import { queueFaults, queueWaits } from "../queues/index.ts";
import { roomFaults } from "../rooms/index.ts";
import { travelFaults } from "../travel/index.ts";
import type { HarborState } from "./state.ts";

/**
 * What must never be in a state, each in a sentence; none in a sound one. For tests, simulations and copies of the data
 * that are about to be relied on: it looks at everything, and takes a time in proportion.
 */
export const faultsOf = (state: HarborState): string[] => [
  ...roomFaults(state),
  ...travelFaults(state),
  ...lobbyFaults(state),
  ...queueFaults(state),
  ...poolFaults(state),
  ...waitingFaults(state),
];

/** What waits without a deadline waits for ever. */
function waitingFaults({ players, rooms, travels, queues, pools, deadlines }: HarborState): string[] {
  const waiting: [kind: DeadlineKind, subject: string][] = [];
  for (const { id, presence } of players.byId.values()) if (presence === "away") waiting.push(["player-grace", id]);
  for (const { id, stage, ways } of rooms.byId.values()) {
    const { phase } = stage;
    if (phase === "playing" && ways.playMs > 0) waiting.push(["room-play", id]);
    if (phase === "counting") waiting.push(["room-countdown", id]);
    if (phase === "results") waiting.push(["room-results", id]);
  }
  waiting.push(...queueWaits(queues));
  for (const run of travels.byRun.keys()) waiting.push(["travel-step", run]);
  for (const { id, state, gone } of pools.instances.values()) {
    if (gone) waiting.push(["instance-forget", id]);
    else if (state === "ordered" || state === "booting") waiting.push(["instance-boot", id]);
  }
  return waiting
    .filter(([kind, subject]) => !hasDeadline(deadlines, kind, subject))
    .map(([kind, subject]) => `${subject} waits without its deadline ${kind}`);
}
