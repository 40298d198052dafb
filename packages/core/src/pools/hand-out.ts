import type { ConfigName, RoomId } from "@yellow-harbor/protocol";
import { accept, type Decision, type Moment, nothingToDo, refuse } from "../harbor/decision.ts";
import type { PoolRules } from "../harbor/rules.ts";
import { newId } from "../harbor/stamp.ts";
import type { PoolCommand } from "./commands.ts";
import { stopEvent, wakeUp } from "./ending.ts";
import type { PoolEvent } from "./events.ts";
import type { Instance, PoolsState } from "./state.ts";

/** The instance the room holds already, else a free open one, else a new one. */
export function handOut(moment: Moment, { pool, room, run }: Extract<PoolCommand, { do: "pool.hand-out" }>): Decision {
  const { state, rules } = moment;
  const poolRules = rules.pools.get(pool);
  if (poolRules === undefined) return refuse("no-instance", `Pool ${pool} is not in the configuration any more.`);
  const { build } = poolRules;
  const held = heldBy(state.pools, room);
  if (held?.pool === pool && held.build === build && held.state === "open") {
    return accept([
      { kind: "instance.claimed", instance: held.id, room, run, why: "held by the room since its last run" },
    ]);
  }
  // What it holds stays as it is until everybody has arrived at the other.
  const free = [...state.pools.instances.values()].find((one) => isFree(one, pool) && one.build === build);
  if (free) return accept([{ kind: "instance.claimed", instance: free.id, room, run, why: "free and open" }]);
  const coming = [...state.pools.instances.values()].find((one) => isComing(one, pool) && one.build === build);
  if (coming) {
    return accept([
      { kind: "instance.claimed", instance: coming.id, room, run, why: "ordered ahead and on its way up" },
    ]);
  }
  return order(moment, { pool, poolRules, room });
}

/** The room has arrived: whatever else it holds is let go of. */
export function releaseFormer({ state, at }: Moment, room: RoomId): Decision {
  const current = state.pools.byRoom.get(room);
  const former = [...state.pools.instances.values()].filter(
    (one) => one.room === room && one.id !== current && one.state !== "draining" && !one.gone,
  );
  return accept(
    former.map((one) => stopEvent(one, "its room has gone on to another place", at)),
    { effects: former.map(wakeUp) },
  );
}

export function release(
  { state, rules, at }: Moment,
  { room, reason }: Extract<PoolCommand, { do: "pool.release" }>,
): Decision {
  const held = heldBy(state.pools, room);
  if (held === undefined || held.state === "draining") return accept([]);
  const pool = rules.pools.get(held.pool);
  // One in the middle of a match is not handed on: what it still does for that nobody would know.
  const isClean = held.match === null && held.state === "open";
  if (pool?.plan && pool.reuse === "any" && isClean) {
    return accept([{ kind: "instance.returned", instance: held.id, room, reason }]);
  }
  return accept([stopEvent(held, reason, at)], { effects: [wakeUp(held)] });
}

export function heldBy(pools: PoolsState, room: RoomId): Instance | undefined {
  const id = pools.byRoom.get(room);
  return id === undefined ? undefined : pools.instances.get(id);
}

/** One more for whoever comes. When the pool is at its most, or has no port free, nothing is ordered. */
export function orderAhead(moment: Moment, { pool, why }: Extract<PoolCommand, { do: "pool.order-ahead" }>): Decision {
  const poolRules = moment.rules.pools.get(pool);
  if (poolRules === undefined) return refuse("no-instance", `Pool ${pool} is not in the configuration any more.`);
  return order(moment, { pool, poolRules, why });
}

export function retire({ state, at }: Moment, { id, why }: Extract<PoolCommand, { do: "pool.retire" }>): Decision {
  const one = state.pools.instances.get(id);
  // A room may have taken it in the same breath: then it stays.
  if (!one || one.gone || one.room !== null || one.match !== null || one.state === "draining") return nothingToDo;
  return accept([stopEvent(one, why, at)], { effects: [wakeUp(one)] });
}

const isComing = ({ pool, state, room }: Instance, wanted: ConfigName) =>
  pool === wanted && (state === "ordered" || state === "booting") && room === null;

const isFree = (one: Instance, pool: ConfigName) => one.pool === pool && one.state === "open" && one.room === null;

interface Ordering {
  readonly pool: ConfigName;
  readonly poolRules: PoolRules;
  readonly room?: RoomId;
  readonly why?: string;
}

function order(
  { state, chance, at }: Moment,
  { pool, poolRules, room, why = `no instance of pool ${pool} was open and free` }: Ordering,
): Decision {
  const live = state.pools.live.get(pool) ?? 0;
  if (live >= poolRules.most) {
    return refuse(
      "no-instance",
      `Pool ${pool} runs ${live} instances, the most it may; try again when a match has ended.`,
    );
  }
  const port = lowestFreePort(state.pools, poolRules, at);
  if (port === undefined) {
    const { from, to } = poolRules.ports;
    return refuse("no-instance", `Pool ${pool} has no free port between ${from} and ${to}.`);
  }
  const instance = newId("i", chance);
  const { build, host, bootMs, stopMs, portRestMs, forgetMs } = poolRules;
  const address = { host, port };
  const ordered: PoolEvent = {
    ...{ kind: "instance.ordered", instance, pool, build, address, why },
    ...(room !== undefined && { room }),
    ...{ bootByMs: at + bootMs, stopMs, portRestMs, forgetMs },
  };
  return accept([ordered], { effects: [{ effect: "start-instance", instance, pool, build, address }] });
}

/** Ports belong to a host, whichever pools share it. */
export const portKey = (host: string, port: number) => `${host}:${port}`;

/** How many more a pool could start now: by its most, and by its ports. */
export function roomFor(pools: PoolsState, id: ConfigName, rules: PoolRules, at: number): number {
  const left = rules.most - (pools.live.get(id) ?? 0);
  let free = 0;
  for (let port = rules.ports.from; port <= rules.ports.to && free < left; port++) {
    if (isPortFree(pools, rules.host, port, at)) free += 1;
  }
  return Math.max(0, Math.min(left, free));
}

function isPortFree(pools: PoolsState, host: string, port: number, at: number): boolean {
  const freeFrom = pools.ports.get(portKey(host, port));
  return freeFrom === undefined || (freeFrom !== null && freeFrom <= at);
}

function lowestFreePort(pools: PoolsState, { host, ports }: PoolRules, at: number): number | undefined {
  for (let port = ports.from; port <= ports.to; port++) {
    if (isPortFree(pools, host, port, at)) return port;
  }
  return undefined;
}
