import type { RoomId } from "@yellow-harbor/protocol";
import { builds } from "../builds/index.ts";
import { accept, type Decision, nothingToDo, type PoolsContext, refuse } from "../model/decision.ts";
import type { PoolCommand } from "../model/pools/commands.ts";
import type { PoolEvent } from "../model/pools/events.ts";
import { hasPlaceFor, heldBy, isDraining, isIdle } from "../model/pools/holds.ts";
import type { Instance } from "../model/pools/state.ts";
import type { Done } from "../model/replies.ts";
import type { PoolsPart } from "../model/state.ts";
import { stopEffect, stopEvent, wakeUp } from "./ending.ts";
import { type Fit, runsFit } from "./fit.ts";
import { fitOf, launch, launchRank, type Ordering } from "./launch.ts";
import { OUT_OF_REACH, rankOf, whereText } from "./regions.ts";

type Allocation = Extract<PoolCommand, { do: "pool.allocate" }>;

/**
 * The instance the room holds already; else, as near its players as one can be had, the best that is open, one that drains
 * and is not needed to, one that comes up, or a new one.
 */
export function allocate(context: PoolsContext, command: Allocation): Decision {
  const { pool, room, run } = command;
  const { state, rules } = context;
  const poolRules = rules.pools.get(pool);
  if (poolRules === undefined) return refuse("no-instance", `Pool ${pool} is not in the configuration any more.`);
  const allocation = (one: Instance, why: string): Decision => {
    const allocated: PoolEvent = { kind: "instance.allocated", instance: one.id, room, run, why };
    if (!isDraining(one)) return accept([allocated]);
    return accept([{ kind: "instance.reclaimed", instance: one.id, why: "a room needs it" }, allocated]);
  };
  const fit = fitOf(state, { poolRules, room });
  if ("refused" in fit) return refuse("no-instance", fit.refused);
  const held = heldBy(state.pools, room);
  if (held?.pool === pool && runsFit(state, held, fit) && isOpen(held) && mayGoOn(held)) {
    return allocation(held, "held by the room since its last run");
  }
  const own = state.seen.rooms.room(room)?.region;
  const regions = state.seen.queues.regionsOf(room) ?? (own === undefined ? undefined : [own]);
  const ordering = { pool, poolRules, room, regions };
  const found = nearestOf(candidatesFor(state, { ...ordering, fit }, held), regions);
  if (found === undefined) return launch(context, ordering);
  // What is there already is not taken where a new one could be nearer: the match was made for that place.
  const rank = rankOf(found.one, regions);
  return rank > 0 && launchRank(context, ordering) < rank
    ? launch(context, ordering)
    : allocation(found.one, found.why);
}

interface Candidate {
  readonly one: Instance;
  readonly why: string;
}

/** The best that is open, the best that could be reclaimed, and the first that comes up. */
function candidatesFor(
  state: PoolsPart,
  { pool, room, regions, fit }: Ordering & { readonly room: RoomId; readonly fit: Fit },
  held: Instance | undefined,
): Candidate[] {
  const players = state.seen.rooms.room(room)?.members.size ?? 1;
  const best = new Best(regions, turnOf(state, fit));
  const aside = new Best(regions);
  const coming = new Best(regions);
  const takes = (one: Instance) =>
    !one.gone && hasPlaceFor(one, players) && runsFit(state, one, fit) && rankOf(one, regions) !== OUT_OF_REACH;
  // Once through all of them, with what is quickly looked at first: there may be thousands.
  for (const one of state.pools.instances.values()) {
    // What the room holds stays as it is until everybody has arrived at the other.
    if (one.pool !== pool || one === held || !takes(one)) continue;
    if (isOpen(one)) best.consider(one);
    else if (isDraining(one) && isIdle(one)) aside.consider(one);
    else if (isComing(one)) coming.consider(one);
  }
  return [
    ...(best.one ? [{ one: best.one, why: best.why }] : []),
    ...(aside.one ? [{ one: aside.one, why: "it was about to be retired and is needed after all" }] : []),
    ...(coming.one ? [{ one: coming.one, why: "launched ahead and booting" }] : []),
  ];
}

/** The first of those that are nearest. */
const nearestOf = (all: readonly Candidate[], regions: readonly string[] | undefined): Candidate | undefined =>
  all.reduce<Candidate | undefined>(
    (best, one) => (best === undefined || rankOf(one.one, regions) < rankOf(best.one, regions) ? one : best),
    undefined,
  );

/** The nearest for the players, where that is known; the fullest of several; the one that is there for longest. */
class Best {
  one: Instance | undefined;
  readonly #regions: readonly string[] | undefined;
  /** The version whose turn it is, while one is being rolled out. */
  readonly #turn: string | undefined;
  #all = 0;

  constructor(regions: readonly string[] | undefined, turn?: string) {
    this.#regions = regions;
    this.#turn = turn;
  }

  consider(one: Instance): void {
    this.#all += 1;
    if (this.one === undefined || this.#isBetter(one, this.one)) this.one = one;
  }

  get why(): string {
    const { one } = this;
    if (one === undefined) return "";
    const { rooms } = one.capacity;
    const where = this.#regions === undefined ? "open" : whereText(one.region, this.#regions);
    const how = rooms === 1 ? "free" : `the fullest that fits, with ${one.holds.size} of ${rooms} rooms`;
    return `${where} and ${how}${this.#all > 1 ? `, of ${this.#all}` : ""}`;
  }

  #isBetter(one: Instance, other: Instance): boolean {
    const [rank, others] = [rankOf(one, this.#regions), rankOf(other, this.#regions)];
    if (rank !== others) return rank < others;
    if (this.#turn !== undefined && one.version !== other.version) return one.version === this.#turn;
    return (
      one.holds.size > other.holds.size ||
      (one.holds.size === other.holds.size && one.launchedAtMs < other.launchedAtMs)
    );
  }
}

/** A new version gets its share of the rooms as well as of new instances: where these serve room after room, few are new. */
function turnOf(state: PoolsPart, { line: build }: Fit): string | undefined {
  const canary = builds.views.rollingOut(state, build);
  if (canary === undefined) return undefined;
  let [own, all] = [0, 0];
  for (const one of state.pools.instances.values()) {
    if (one.gone || one.build !== build) continue;
    all += one.holds.size;
    if (one.version === canary.version) own += one.holds.size;
  }
  return own < canary.share * (all + 1) ? canary.version : undefined;
}

const isOpen = ({ state }: Instance) => state === "open" || state === "busy";
const isComing = ({ state }: Instance) => state === "launched" || state === "booting";

/** Whether the room that holds it may go on to another run in it. */
const mayGoOn = ({ capacity, played }: Instance) => capacity.matches === "many" || played === 0;

/** The room has arrived: whatever else it holds is let go of. */
export function releaseFormer(context: PoolsContext, room: RoomId): Decision {
  const { state } = context;
  const current = state.pools.byRoom.get(room);
  const former = [...state.pools.instances.values()].filter(
    (one) => one.holds.has(room) && one.id !== current && !one.stopping && !one.gone,
  );
  const reason = "its room has gone on to another place";
  return all(former.map((one) => letGo(context, one, room, reason, false)));
}

export function release(
  context: PoolsContext,
  { room, reason }: Extract<PoolCommand, { do: "pool.release" }>,
): Decision {
  const held = heldBy(context.state.pools, room);
  if (held === undefined || held.stopping) return accept([]);
  const pool = context.rules.pools.get(held.pool);
  return letGo(context, held, room, reason, pool?.plan != null && pool.reuse === "any");
}

/** A room lets go of an instance: it is there for others, where that may be; else it stops. */
function letGo({ state, at }: PoolsContext, one: Instance, room: RoomId, reason: string, reusable: boolean): Decision {
  const match = one.holds.get(room) ?? null;
  const others = [...one.holds.keys()].filter((id) => id !== room);
  const returned: PoolEvent = { kind: "instance.returned", instance: one.id, room, reason };
  if (others.length > 0) {
    if (match === null) return accept([returned]);
    // It goes on for the others: it is told that this match is over.
    const number = one.instructionsGiven + 1;
    const ended: PoolEvent = { kind: "instance.match-ended", instance: one.id, number, run: match.run, reason };
    return accept([ended, returned], { effects: [wakeUp(one)] });
  }
  // One in the middle of a match is not handed on: what it still does for that nobody would know.
  const isClean = match === null && one.state === "open" && (one.capacity.matches === "many" || one.played === 0);
  // A version on its way out is not kept for anybody.
  if (reusable && isClean && builds.views.takesNewRooms(state, one.build, one.version)) return accept([returned]);
  return accept([stopEvent(one, reason, at)], { effects: [stopEffect(one)] });
}

function all(decisions: readonly Decision[]): Decision {
  const accepted = decisions.flatMap((one) => ("refused" in one ? [] : [one]));
  return accept(
    accepted.flatMap(({ events }) => events),
    { effects: accepted.flatMap(({ effects }) => effects) },
  );
}

/** One that nobody holds drains: for a while it can be reclaimed, then it stops. */
export function retire(
  { state, rules, at }: PoolsContext,
  { id, why }: Extract<PoolCommand, { do: "pool.retire" }>,
): Decision {
  const one = state.pools.instances.get(id);
  // A room may have taken it in the same read: then it stays.
  if (!one || one.gone || !isIdle(one) || one.state === "draining") return nothingToDo;
  const reclaimMs = one.state === "open" ? (rules.pools.get(one.pool)?.plan?.reclaimMs ?? 0) : 0;
  if (reclaimMs > 0) return accept([{ kind: "instance.draining", instance: id, why, untilMs: at + reclaimMs }]);
  return accept([stopEvent(one, why, at)], { effects: [stopEffect(one)] });
}

/** Takes no new room any more, plays its matches to their end, and stops: at once when nobody holds it. */
export function drain(
  { state, at }: PoolsContext,
  { id, why, untilMs }: Extract<PoolCommand, { do: "pool.drain" }>,
): Decision<Done> {
  const one = state.pools.instances.get(id);
  if (one === undefined) return refuse("instance-unknown", `There is no instance ${id}.`);
  const reply = (): Done => ({});
  if (one.gone || one.stopping || one.exiting || one.state === "failed") return accept([], { reply });
  if (isIdle(one)) return accept([stopEvent(one, why, at)], { effects: [stopEffect(one)], reply });
  if (isDraining(one) && untilMs === undefined) return accept([], { reply });
  return accept([{ kind: "instance.draining", instance: id, why, untilMs: untilMs ?? at + one.drainMs }], { reply });
}

export function takeBack({ state }: PoolsContext, { id, why }: Extract<PoolCommand, { do: "pool.reclaim" }>): Decision {
  const one = state.pools.instances.get(id);
  if (one === undefined || !isDraining(one) || !isIdle(one)) return nothingToDo;
  return accept([{ kind: "instance.reclaimed", instance: id, why }]);
}

/** Its time to drain is over. Who is still in there is lost to it, and goes where the room's kind says. */
export function drainLate({ at }: PoolsContext, one: Instance): Decision {
  if (!isDraining(one)) return nothingToDo;
  const rooms = [...one.holds.keys()];
  const event = stopEvent(one, rooms.length > 0 ? `its time to drain is over; ${one.why}` : one.why, at);
  return accept([rooms.length > 0 ? { ...event, rooms } : event], { effects: [stopEffect(one)] });
}

/** Whatever drains and has nothing left to do stops. */
export function stopIfDone({ at }: PoolsContext, one: Instance): Decision {
  if (!isDraining(one) || !isIdle(one)) return nothingToDo;
  return accept([stopEvent(one, one.why, at)], { effects: [stopEffect(one)] });
}
