import { type CostRow, type CostsView, linesOf } from "@yellow-harbor/protocol";
import { machines as allMachines } from "../machines/index.ts";
import type { Instance } from "../model/pools/state.ts";
import type { HarborRules } from "../model/rules.ts";
import type { PoolsPart } from "../model/state.ts";
import { buildKey, heldMs, ranMs } from "./meter.ts";

const { rulesOf: machineRules } = allMachines.views;

type Sums = Map<string, number>;

/** What instances have run for, by pool, build, machine and room, and what that costs. Those that run now are counted up to now. */
export function costsView(state: PoolsPart, rules: HarborRules, at: number): CostsView {
  const { meter, instances } = state.pools;
  const running = [...instances.values()].filter(({ gone }) => !gone);
  const pools = withRunning(meter.byPool, running, ({ pool }) => [pool], ranMs, at);
  const builds = withRunning(meter.byBuild, running, (one) => [buildKey(one)], ranMs, at);
  const machines = new Map(meter.byMachine);
  for (const [machine, since] of meter.busySinceMs) add(machines, machine, Math.max(0, at - since));
  const rooms = new Map(meter.byRoom);
  for (const one of running) for (const room of one.holds.keys()) add(rooms, room, heldMs(one, room, at));
  const price = (pool: string) => rules.pools.get(pool)?.pricePerSecond ?? null;
  const linePrice = (line: string) =>
    [...rules.pools.values()].find((pool) => linesOf(pool).includes(line))?.pricePerSecond ?? null;
  return {
    pools: rowsOf(pools, price),
    builds: rowsOf(builds, (key) => linePrice(key.split(" ")[0] ?? "")),
    machines: rowsOf(machines, (machine) => machineRules(state, rules, machine)?.pricePerSecond ?? null),
    rooms: rowsOf(rooms, () => null),
  };
}

function withRunning(
  known: Sums,
  running: readonly Instance[],
  keysOf: (one: Instance) => readonly string[],
  msOf: (one: Instance, at: number) => number,
  at: number,
): Sums {
  const sums = new Map(known);
  for (const one of running) for (const key of keysOf(one)) add(sums, key, msOf(one, at));
  return sums;
}

const add = (sums: Sums, key: string, ms: number) => void sums.set(key, (sums.get(key) ?? 0) + ms);

function rowsOf(sums: Sums, priceOf: (id: string) => number | null): CostRow[] {
  return [...sums].map(([id, ms]) => {
    const seconds = Math.round(ms / 100) / 10;
    const price = priceOf(id);
    return { id, seconds, ...(price !== null && { cost: Math.round(seconds * price * 1e6) / 1e6 }) };
  });
}
