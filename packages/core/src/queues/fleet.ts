import type { ConfigName } from "@yellow-harbor/protocol";
import type { QueueRules } from "../model/queues/rules.ts";
import type { HarborRules } from "../model/rules.ts";
import type { QueuesPart } from "../model/state.ts";

/** How many matches of a queue could be played now, when they can be played at instances of pools alone. */
export interface Fleet {
  readonly pools: readonly ConfigName[];
  readonly left: number;
}

/**
 * Whether there is anywhere to play. A match that is made for a full pool throws its players into a room and out again,
 * so none is made until there is. Undefined where rooms of the queue may be played otherwise too.
 */
export function fleetOf(state: QueuesPart, rules: HarborRules, queue: QueueRules, at: number): Fleet | undefined {
  const kind = rules.roomKinds.get(queue.roomKind);
  if (kind === undefined || kind.destinations.some((by) => by !== "dedicated")) return undefined;
  const pools = [...new Set(kind.levels.flatMap((level) => rules.levels.get(level)?.pool ?? []))];
  // Matches that are confirmed or on their way will each ask for one.
  const coming = [...state.queues.matches.values()].filter(
    ({ forming, into, room, queue: id }) => forming && into === undefined && room === null && usesAny(rules, id, pools),
  );
  const left = pools.reduce((sum, pool) => sum + state.seen.pools.roomsLeftIn(rules, pool, at), 0) - coming.length;
  return { pools, left: Math.max(0, left) };
}

function usesAny({ queues, roomKinds, levels }: HarborRules, queue: ConfigName, pools: readonly ConfigName[]): boolean {
  const kind = roomKinds.get(queues.get(queue)?.roomKind ?? "");
  return (kind?.levels ?? []).some((level) => pools.includes(levels.get(level)?.pool ?? ""));
}

/** What stands in the way of a match, in a sentence, while there is nowhere to play. */
export function fullText(state: QueuesPart, rules: HarborRules, { pools }: Fleet): string {
  const each = pools.map((pool) => {
    const { max = 0 } = rules.pools.get(pool) ?? {};
    return `${pool} runs ${state.seen.pools.liveOf(pool)} of the ${max} instances it may`;
  });
  return `No match is made now, since there is nowhere to play it: pool ${each.join("; pool ")}, and none has a place free. It goes on by itself when a match ends.`;
}
