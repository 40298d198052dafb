import type { ConfigName, RoomId } from "@yellow-harbor/protocol";
import { accept, type Decision, type Moment, refuse } from "../harbor/decision.ts";
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
  { state, at }: Moment,
  { room, reason }: Extract<PoolCommand, { do: "pool.release" }>,
): Decision {
  const held = heldBy(state.pools, room);
  if (held === undefined || held.state === "draining") return accept([]);
  return accept([stopEvent(held, reason, at)], { effects: [wakeUp(held)] });
}

export function heldBy(pools: PoolsState, room: RoomId): Instance | undefined {
  const id = pools.byRoom.get(room);
  return id === undefined ? undefined : pools.instances.get(id);
}

const isFree = (one: Instance, pool: ConfigName) => one.pool === pool && one.state === "open" && one.room === null;

interface Ordering {
  readonly pool: ConfigName;
  readonly poolRules: PoolRules;
  readonly room: RoomId;
}

function order({ state, chance, at }: Moment, { pool, poolRules, room }: Ordering): Decision {
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
  const why = `no instance of pool ${pool} was open and free`;
  const ordered: PoolEvent = {
    ...{ kind: "instance.ordered", instance, pool, build, address, room, why },
    ...{ bootByMs: at + bootMs, stopMs, portRestMs, forgetMs },
  };
  return accept([ordered], { effects: [{ effect: "start-instance", instance, pool, build, address }] });
}

/** Ports belong to a host, whichever pools share it. */
export const portKey = (host: string, port: number) => `${host}:${port}`;

function lowestFreePort(pools: PoolsState, { host, ports }: PoolRules, at: number): number | undefined {
  for (let port = ports.from; port <= ports.to; port++) {
    const freeFrom = pools.ports.get(portKey(host, port));
    if (freeFrom === undefined || (freeFrom !== null && freeFrom <= at)) return port;
  }
  return undefined;
}
