import {
  type Address,
  type BuildSpec,
  type ConfigName,
  morePortsOf,
  type PoolRules,
  placeholdersIn,
  type RoomId,
} from "@yellow-harbor/protocol";
import { builds } from "../builds/index.ts";
import { accept, type Decision, type PoolsContext, refuse } from "../model/decision.ts";
import type { PoolCommand } from "../model/pools/commands.ts";
import type { PoolEvent } from "../model/pools/events.ts";
import { newId } from "../model/stamp.ts";
import type { PoolsPart } from "../model/state.ts";
import { type Fit, fitFor, versionFor } from "./fit.ts";
import { place } from "./placement.ts";
import { freePorts } from "./ports.ts";
import { OUT_OF_REACH, rankOf } from "./regions.ts";
import { needsOf, type Slot, slotsOf } from "./slots.ts";

export interface Ordering {
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
  { pool, why, region }: Extract<PoolCommand, { do: "pool.launch-ahead" }>,
): Decision {
  const poolRules = context.rules.pools.get(pool);
  if (poolRules === undefined) return refuse("no-instance", `Pool ${pool} is not in the configuration any more.`);
  return launch(context, { pool, poolRules, why, regions: region === undefined ? undefined : [region] });
}

export function launch(
  context: PoolsContext,
  { pool, poolRules, room, regions, why = `no instance of pool ${pool} was open and free` }: Ordering,
): Decision {
  const { state, random, at } = context;
  const live = state.pools.live.get(pool) ?? 0;
  if (live >= poolRules.max) {
    return refuse(
      "no-instance",
      `Pool ${pool} runs ${live} instances, the most it may; try again when a match has ended.`,
    );
  }
  const fit = fitOf(state, { poolRules, room });
  if ("refused" in fit) return refuse("no-instance", fit.refused);
  const { line: build } = fit;
  const version = versionFor(state, fit);
  const spec = version === undefined ? undefined : builds.views.spec(state, build, version);
  if (version === undefined || spec === undefined) {
    return refuse("no-instance", `Build line ${build} has no version that may be started; add one, or promote one.`);
  }
  const found = findPlace(context, { pool, poolRules, regions }, { line: build, spec });
  if ("refused" in found) return refuse("no-instance", found.refused);
  const {
    machine,
    text,
    host,
    ports: [port, ...others],
  } = found;
  const more = morePortsOf(spec);
  const instance = newId("i", random);
  const { bootMs, stopMs, portRestMs, forgetMs, drainMs } = poolRules;
  const address: Address = { host, port, ...(spec.transport !== "tcp" && { transport: spec.transport }) };
  const morePorts = Object.fromEntries(more.map(([purpose], n) => [purpose, others[n] as number]));
  const level = room === undefined ? null : (state.seen.rooms.room(room)?.level?.id ?? null);
  const isForClient = fit.client !== undefined && namesClient(spec);
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
    ...(Object.keys(spec.needs).length > 0 && { needs: needsOf(spec) }),
    ...(text !== undefined && { placed: text }),
    ...(isForClient && { client: fit.client }),
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
        client: fit.client ?? null,
      },
    ],
  });
}

/** What the room's instance has to run. */
export const fitOf = (
  state: PoolsPart,
  { poolRules, room }: Pick<Ordering, "poolRules" | "room">,
): Fit | { readonly refused: string } =>
  fitFor(state, poolRules, room === undefined ? undefined : state.seen.rooms.room(room)?.build);

/** Whether what is started is told the build of its clients: then it is for these alone. */
const namesClient = ({ args, environment }: BuildSpec): boolean =>
  [...args, ...Object.values(environment)].some((text) => placeholdersIn(text).includes("client.build"));

/** How near a new one could be, out of reach where none can be launched now. */
export function launchRank(context: PoolsContext, ordering: Ordering): number {
  const { pool, poolRules, regions } = ordering;
  const { state } = context;
  const fit = fitOf(state, ordering);
  const version = "refused" in fit ? undefined : versionFor(state, fit);
  if ("refused" in fit || version === undefined) return OUT_OF_REACH;
  const { line } = fit;
  const spec = builds.views.spec(state, line, version);
  if (spec === undefined || (state.pools.live.get(pool) ?? 0) >= poolRules.max) return OUT_OF_REACH;
  const found = findPlace(context, ordering, { line, spec });
  return "refused" in found ? OUT_OF_REACH : rankOf(found.machine.rules, regions);
}

interface Found {
  readonly machine: Slot;
  /** Why there, where there was something to choose. */
  readonly text: string | undefined;
  readonly host: string;
  readonly ports: readonly [number, ...number[]];
}

/** A machine with room for it, and enough ports there; or why there is none. */
function findPlace(
  { state, rules, at }: PoolsContext,
  { pool, poolRules, regions }: Ordering,
  { line, spec }: { readonly line: ConfigName; readonly spec: BuildSpec },
): Found | { readonly refused: string } {
  const { placement, ports } = poolRules;
  const many = 1 + morePortsOf(spec).length;
  let left = slotsOf(state, rules, poolRules, line);
  let without = "";
  for (;;) {
    const placed = place(left, { needs: needsOf(spec), regions, placement });
    if ("refused" in placed) return { refused: without === "" ? placed.refused : `Pool ${pool} has ${without}.` };
    const { slot: machine, text } = placed;
    const host = poolRules.host ?? machine.rules.host;
    const [first, ...others] = freePorts(state.pools, { ...poolRules, host }, at, many, state.pools.lastPort.get(pool));
    if (first !== undefined && others.length === many - 1) return { machine, text, host, ports: [first, ...others] };
    // Nothing more finds ports on that host; machines of others may have some.
    left = left.filter(({ rules: other }) => (poolRules.host ?? other.host) !== host);
    without = `${many === 1 ? "no free port" : `fewer than ${many} free ports`} between ${ports.from} and ${ports.to} on ${host}`;
  }
}
