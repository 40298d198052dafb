import { type Address, type ConfigName, morePortsOf, type PoolRules, type RoomId } from "@yellow-harbor/protocol";
import { builds } from "../builds/index.ts";
import { accept, type Decision, type PoolsContext, refuse } from "../model/decision.ts";
import type { PoolCommand } from "../model/pools/commands.ts";
import type { PoolEvent } from "../model/pools/events.ts";
import { newId } from "../model/stamp.ts";
import { freePorts } from "./ports.ts";
import { OUT_OF_REACH, rankOf } from "./regions.ts";
import { machinesOf, type Slot } from "./vacancy.ts";

interface Ordering {
  readonly pool: ConfigName;
  readonly poolRules: PoolRules;
  readonly room?: RoomId;
  /** Where it may be, the best first, for its players' latencies; anywhere when absent. */
  readonly regions?: readonly string[] | undefined;
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
  { pool, poolRules, room, regions, why = `no instance of pool ${pool} was open and free` }: Ordering,
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
  const machine = machineFor(machinesOf(state, rules, poolRules), poolRules, regions);
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

/** Where it is to run: on a machine that is there and has room, as near the players as can be, the least loaded. */
function machineFor(
  all: readonly Slot[],
  { machines }: PoolRules,
  regions: readonly string[] | undefined,
): Slot | { readonly refused: string } {
  const names = machines.join(", ");
  const there = all.filter(({ isThere }) => isThere);
  if (all.length > 0 && there.length === 0) {
    return { refused: `None of the machines ${names} is there; start \`yh agent\` on one of them.` };
  }
  const near = there.filter(({ rules }) => rankOf(rules, regions) !== OUT_OF_REACH);
  if (there.length > 0 && near.length === 0) {
    const where = regions?.join(" or ") ?? "";
    return { refused: `None of the machines ${names} that are there is in ${where}, where the match may be played.` };
  }
  const free = near.filter(({ rules, running }) => running < rules.max);
  if (free.length === 0) {
    const full = near.map(({ id, rules }) => `${id} with ${rules.max} instances`).join(", ");
    return { refused: full === "" ? `None of the machines ${names} is known.` : `All machines are full: ${full}.` };
  }
  return free.reduce((best, one) => (isBetter(one, best, regions) ? one : best));
}

function isBetter(one: Slot, other: Slot, regions: readonly string[] | undefined): boolean {
  const [rank, others] = [rankOf(one.rules, regions), rankOf(other.rules, regions)];
  return rank === others ? one.running < other.running : rank < others;
}
