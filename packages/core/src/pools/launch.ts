import {
  type Address,
  type ConfigName,
  type MachineRules,
  morePortsOf,
  type PoolRules,
  type RoomId,
} from "@yellow-harbor/protocol";
import { builds } from "../builds/index.ts";
import { accept, type Decision, type PoolsContext, refuse } from "../model/decision.ts";
import type { PoolCommand } from "../model/pools/commands.ts";
import type { PoolEvent } from "../model/pools/events.ts";
import type { PoolsState } from "../model/pools/state.ts";
import { newId } from "../model/stamp.ts";
import type { PoolsPart } from "../model/state.ts";

interface Ordering {
  readonly pool: ConfigName;
  readonly poolRules: PoolRules;
  readonly room?: RoomId;
  /** Where it would best be, for its players' latencies. */
  readonly region?: string | null;
  readonly why?: string;
}

/** One more for whoever comes. When the pool is at its maximum, or has no port free, nothing is launched. */
export function launchAhead(
  context: PoolsContext,
  { pool, why }: Extract<PoolCommand, { do: "pool.launch-ahead" }>,
): Decision {
  const poolRules = context.rules.pools.get(pool);
  if (poolRules === undefined) return refuse("no-instance", `Pool ${pool} is not in the configuration any more.`);
  return launch(context, { pool, poolRules, why });
}

export function launch(
  { state, rules, random, at }: PoolsContext,
  { pool, poolRules, room, region = null, why = `no instance of pool ${pool} was open and free` }: Ordering,
): Decision {
  const live = state.pools.live.get(pool) ?? 0;
  if (live >= poolRules.max) {
    return refuse(
      "no-instance",
      `Pool ${pool} runs ${live} instances, the most it may; try again when a match has ended.`,
    );
  }
  const { build } = poolRules;
  const version = builds.views.nextVersion(state, build);
  const spec = version === undefined ? undefined : builds.views.spec(state, build, version);
  if (version === undefined || spec === undefined) {
    return refuse("no-instance", `Build line ${build} has no version that may be started; add one, or promote one.`);
  }
  const machine = machineFor(state, poolRules, rules.machines, region);
  if ("refused" in machine) return refuse("no-instance", machine.refused);
  const host = poolRules.host ?? machine.rules.host;
  const more = morePortsOf(spec);
  const ports = freePorts(state.pools, { ...poolRules, host }, at, 1 + more.length, state.pools.lastPort.get(pool));
  const [port, ...others] = ports;
  if (port === undefined || others.length < more.length) {
    const { from, to } = poolRules.ports;
    const wanted = more.length === 0 ? "no free port" : `fewer than ${1 + more.length} free ports`;
    return refuse("no-instance", `Pool ${pool} has ${wanted} between ${from} and ${to} on ${host}.`);
  }
  const instance = newId("i", random);
  const { bootMs, stopMs, portRestMs, forgetMs, drainMs } = poolRules;
  const address: Address = { host, port, ...(spec.transport !== "tcp" && { transport: spec.transport }) };
  const morePorts = Object.fromEntries(more.map(([purpose], n) => [purpose, others[n] as number]));
  const level = room === undefined ? null : (state.seen.rooms.room(room)?.level?.id ?? null);
  const launched: PoolEvent = {
    kind: "instance.launched",
    instance,
    pool,
    build,
    version,
    machine: machine.id,
    region: machine.rules.region,
    address,
    ports: morePorts,
    why,
    isWatched: spec.ready !== "kit",
    level,
    capacity: { rooms: spec.rooms, berths: spec.berths, matches: spec.matches },
    ...(room !== undefined && { room }),
    bootByMs: at + bootMs,
    stopMs,
    portRestMs,
    forgetMs,
    drainMs,
    ...(spec.limits.runMs !== undefined && { runMs: spec.limits.runMs }),
    ...(spec.limits.emptyMs !== undefined && { emptyMs: spec.limits.emptyMs }),
  };
  return accept([launched], {
    effects: [
      {
        effect: "start-instance",
        instance,
        pool,
        build,
        version,
        spec,
        machine: machine.id,
        address,
        ports: morePorts,
        level,
      },
    ],
  });
}

/** Where it is to run: on a machine that is there and has room, near the players where that is known, the least loaded. */
function machineFor(
  { pools, machines: { agents } }: PoolsPart,
  { machines }: PoolRules,
  all: ReadonlyMap<ConfigName, MachineRules>,
  region: string | null,
): { readonly id: ConfigName; readonly rules: MachineRules } | { readonly refused: string } {
  const known = machines.flatMap((id) => {
    const rules = all.get(id);
    return rules === undefined ? [] : [{ id, rules, running: pools.onMachine.get(id) ?? 0 }];
  });
  const there = known.filter(({ id, rules }) => rules.driver !== "agent" || agents.get(id)?.isThere === true);
  if (known.length > 0 && there.length === 0) {
    return { refused: `None of the machines ${machines.join(", ")} is there; start \`yh agent\` on one of them.` };
  }
  const free = there.filter(({ rules, running }) => running < rules.max);
  if (free.length === 0) {
    const full = there.map(({ id, rules }) => `${id} with ${rules.max} instances`).join(", ");
    return {
      refused:
        full === "" ? `None of the machines ${machines.join(", ")} is known.` : `All machines are full: ${full}.`,
    };
  }
  const near = free.filter(({ rules }) => region !== null && rules.region === region);
  const among = near.length > 0 ? near : free;
  return among.reduce((best, one) => (one.running < best.running ? one : best));
}

/** How many more a pool could start now: by its maximum, and by its ports. */
export function roomFor(
  state: PoolsPart,
  id: ConfigName,
  rules: PoolRules,
  hosts: readonly string[],
  at: number,
): number {
  const { pools } = state;
  const left = Math.max(0, rules.max - (pools.live.get(id) ?? 0));
  const version = builds.views.nextVersion(state, rules.build);
  const spec = version === undefined ? undefined : builds.views.spec(state, rules.build, version);
  const each = 1 + (spec === undefined ? 0 : morePortsOf(spec).length);
  let free = 0;
  for (const host of hosts) free += Math.floor(freePorts(pools, { ...rules, host }, at, left * each).length / each);
  return Math.min(left, free);
}

/** Free ports of a host, at most so many: those behind the last one that was given first, then on from the beginning. */
function freePorts(
  pools: PoolsState,
  { host, ports: { from, to }, portRestMs }: Pick<PoolRules, "ports" | "portRestMs"> & { readonly host: string },
  at: number,
  max: number,
  last = to,
): number[] {
  // Ports belong to a host, whichever pools share it.
  const known = pools.ports.get(host);
  const many = to - from + 1;
  const start = last >= from && last < to ? last + 1 - from : 0;
  const free: number[] = [];
  const resting: { readonly port: number; readonly freeFrom: number }[] = [];
  for (let n = 0; n < many && free.length < max; n++) {
    const port = from + ((start + n) % many);
    const freeFrom = known?.get(port);
    if (freeFrom === undefined || (freeFrom !== null && freeFrom <= at)) free.push(port);
    // Held longer than it rests: somebody else was found at it.
    else if (freeFrom !== null && freeFrom - at <= portRestMs) resting.push({ port, freeFrom });
  }
  // Resting is for when there are others: before a room is refused, the port that has rested longest is used again.
  resting.sort((a, b) => a.freeFrom - b.freeFrom);
  for (const { port } of resting.slice(0, max - free.length)) free.push(port);
  return free;
}
