import type { PlayerId } from "@yellow-harbor/protocol";
import { accept, type Decision, type PoolsContext } from "../model/decision.ts";
import type { Effect } from "../model/effect.ts";
import type { PoolEvent } from "../model/pools/events.ts";
import { matchesOf, matchWith } from "../model/pools/holds.ts";
import type { Difference, Instance } from "../model/pools/state.ts";
import { wakeUp } from "./ending.ts";

/** So long the instance's word may differ from ours before ours is put right: what crossed on the way is settled by then. */
const DIFFER_MS = 3_000;

/** So many differences of one instance are kept: more of them tell nothing more. */
const DIFFERENCES_MAX = 64;

interface Settled {
  readonly events: readonly PoolEvent[];
  readonly effects: readonly Effect[];
}

/**
 * Holds who is there by the instance's word against the berths. What differs is kept and shown; when it still does some
 * seconds later, a berth that nobody sits on is freed, and who sits on none is to be let go of.
 */
export function reconcile({ at }: PoolsContext, instance: Instance, players: readonly PlayerId[]): Settled {
  const there = new Set<string>(players);
  const taken = matchesOf(instance).flatMap(({ berths }) =>
    [...berths.values()].filter(({ state }) => state === "taken").map(({ player }) => player),
  );
  const now = new Map<string, Difference["what"]>([
    ...taken.filter((player) => !there.has(player)).map((player) => [player, "not-there"] as const),
    ...players.filter((player) => isUnexpected(instance, player)).map((player) => [player, "not-expected"] as const),
  ]);
  const events: PoolEvent[] = [];
  for (const [player, what] of [...now].slice(0, DIFFERENCES_MAX)) {
    const before = instance.differences.get(player);
    if (before?.what !== what) events.push({ kind: "instance.differed", instance: instance.id, player, what });
    else if (at - before.sinceMs >= DIFFER_MS) events.push(...putRight(instance, player, what, events.length));
  }
  for (const [player, { what }] of instance.differences) {
    if (what === "never-said" || now.has(player)) continue;
    events.push({ kind: "instance.differed", instance: instance.id, player, what: null });
  }
  const hasOrder = events.some((event) => event.kind === "instance.unboarded" && event.number !== undefined);
  return { events, effects: hasOrder ? [wakeUp(instance)] : [] };
}

/** After its match somebody may stay connected, and before the next it may be on its way: only who has no part in one is odd. */
function isUnexpected(instance: Instance, player: string): boolean {
  if (matchesOf(instance).length === 0) return false;
  const state = matchWith(instance, player)?.berths.get(player)?.state;
  return state === undefined || state === "left";
}

function putRight(instance: Instance, player: string, what: Difference["what"], before: number): PoolEvent[] {
  const match = matchWith(instance, player);
  const berth = match?.berths.get(player);
  // Somebody of whom we know nothing: it is shown, and the instance's own affair.
  if (match === undefined || berth === undefined) return [];
  const event = {
    kind: "instance.unboarded",
    instance: instance.id,
    player,
    name: berth.name,
    run: match.run,
  } as const;
  if (what === "not-there") return [{ ...event, reason: "not-there" }];
  if (berth.state !== "left" || before > 0) return [];
  return [{ ...event, reason: "left-room", number: instance.instructionsGiven + 1 }];
}

/** Berths that were kept for who follows a match, and whose passes are worth nothing any more, are free again. */
export function berthsLate({ at }: PoolsContext, instance: Instance): Decision {
  const late = matchesOf(instance).flatMap(({ run, berths }) =>
    [...berths.values()]
      .filter(({ state, expiresAtMs }) => state === "reserved" && expiresAtMs !== null && expiresAtMs < at)
      .map((berth) => ({ run, berth })),
  );
  if (late.length === 0) return accept([]);
  const events = late.map(({ run, berth: { player, name } }, n): PoolEvent => {
    const number = instance.instructionsGiven + 1 + n;
    return { kind: "instance.unboarded", instance: instance.id, player, name, reason: "never-came", number, run };
  });
  const upTo = instance.instructionsGiven + late.length;
  return accept(events, { effects: [{ effect: "wake-instance", instance: instance.id, upTo }] });
}
