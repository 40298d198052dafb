import type { ConfigName } from "@yellow-harbor/protocol";
import type { QueueRules } from "../model/queues/rules.ts";
import type { MadeMatch } from "../model/queues/state.ts";
import type { HarborRules } from "../model/rules.ts";
import type { QueuesPart } from "../model/state.ts";

/** How many matches of a queue could be played now, when they can be played at instances of pools alone. */
export interface Fleet {
  readonly pools: readonly ConfigName[];
  readonly left: number;
  /** By region, in the order of the queue's rules; undefined when it looks at no latency. */
  readonly byRegion: readonly number[] | undefined;
}

/**
 * Whether there is anywhere to play, and where. A match that is made for a full pool throws its players into a room and
 * out again, so none is made until there is. Undefined where rooms of the queue may be played otherwise too.
 */
export function fleetOf(state: QueuesPart, rules: HarborRules, queue: QueueRules, at: number): Fleet | undefined {
  const kind = rules.roomKinds.get(queue.roomKind);
  if (kind === undefined || kind.destinations.some((by) => by !== "dedicated")) return undefined;
  const pools = [...new Set(kind.levels.flatMap((level) => rules.levels.get(level)?.pool ?? []))];
  // Matches that are confirmed or on their way will each ask for one.
  const coming = [...state.queues.matches.values()].filter(
    ({ forming, into, room, queue: id }) => forming && into === undefined && room === null && usesAny(rules, id, pools),
  );
  const vacancies = pools.map((pool) => state.seen.pools.vacancyOf(rules, pool, at));
  const all = vacancies.reduce((sum, vacancy) => sum + vacancy.all, 0) - coming.length;
  const byRegion = queue.match.latency?.regions.map((region) => {
    // On a machine that names no region everybody plays: whoever runs it says that this is of no account.
    const free = vacancies.reduce((sum, { byRegion: by }) => sum + (by.get(region) ?? 0) + (by.get(null) ?? 0), 0);
    return Math.max(0, free - coming.filter((match) => isBoundFor(match, region)).length);
  });
  const left = byRegion?.every((rooms) => rooms === 0) ? 0 : Math.max(0, all);
  return { pools, left, byRegion };
}

const isBoundFor = ({ region }: MadeMatch, other: string) => region === null || region === other;

function usesAny({ queues, roomKinds, levels }: HarborRules, queue: ConfigName, pools: readonly ConfigName[]): boolean {
  const kind = roomKinds.get(queues.get(queue)?.roomKind ?? "");
  return (kind?.levels ?? []).some((level) => pools.includes(levels.get(level)?.pool ?? ""));
}

/** What stands in the way of a match, in sentences: nothing where there is somewhere to play it. */
export function fullTexts(state: QueuesPart, rules: HarborRules, queue: QueueRules, at: number): string[] {
  const fleet = fleetOf(state, rules, queue, at);
  if (fleet === undefined) return [];
  const { pools, left, byRegion } = fleet;
  const why = (region?: string) =>
    pools.map((pool) => state.seen.pools.whyFull(rules, { pool, region, at })).join("; ");
  const regions = queue.match.latency?.regions ?? [];
  const byReason = new Map<string, string[]>();
  for (const region of regions.filter((_, n) => byRegion?.[n] === 0))
    byReason.set(why(region), [...(byReason.get(why(region)) ?? []), region]);
  const closed = [...byReason].map(([reason, names]) => `No match is made at ${names.join(" or ")}: ${reason}.`);
  if (left > 0) return closed;
  const reason = closed.length > 0 ? "." : `: ${why()}.`;
  const again = "It goes on by itself when a match ends.";
  return [`No match is made now, since there is nowhere to play it${reason}`, ...closed, again];
}
