import type { DepartedReason } from "@yellow-harbor/protocol";
import type { QueuesContext } from "../model/decision.ts";
import type { QueueCommand } from "../model/queues/commands.ts";
import type { QueueEvent } from "../model/queues/events.ts";

export type Leaving = Extract<QueueCommand, { do: "queue.member-left" }>;

/** Who goes so has left a match; who is kicked, or was too late for it, has not. */
const LEFT: ReadonlySet<DepartedReason> = new Set(["left", "moved", "lost"]);

/** What leaving a match costs that is being played, where its queue says so: no search for a while. */
export function leaverPause(
  { state, rules, at }: QueuesContext,
  { room, player, name, reason }: Leaving,
): QueueEvent[] {
  const known = state.queues.rooms.get(room);
  const leavers = known && rules.queues.get(known.queue)?.leavers;
  if (!leavers || state.seen.rooms.room(room)?.stage.phase !== "playing" || !LEFT.has(reason)) return [];
  if (!known.tickets.some(({ players }) => players.some(({ id }) => id === player))) return [];
  const leaver = known.accounts?.[player] ?? player;
  const before = state.queues.leavers.get(leaver);
  const times = before && at <= before.untilMs + leavers.forgetMs ? before.times + 1 : 1;
  const pauseMs = leavers.pausesMs[Math.min(times, leavers.pausesMs.length) - 1] ?? 0;
  return [{ kind: "queue.search-paused", queue: known.queue, player, name, times, untilMs: at + pauseMs, leaver }];
}
