import {
  type BuildSpec,
  type ConfigName,
  counted,
  linesOf,
  type MachineRules,
  type PoolRules,
} from "@yellow-harbor/protocol";
import { builds } from "../builds/index.ts";
import { hasPlaceFor } from "../model/pools/holds.ts";
import type { Instance, Needs } from "../model/pools/state.ts";
import type { HarborRules } from "../model/rules.ts";
import type { Vacancy } from "../model/seen.ts";
import type { PoolsPart } from "../model/state.ts";
import { portsLeft } from "./ports.ts";
import { fitsOn, needsOf, type Slot, slotsOf, whyNotOn } from "./slots.ts";

/** So many in a row that never came up are no accident: from then on one is tried at a time, seldom. */
const FAILING_FROM = 2;
const TRY_AGAIN_FIRST_MS = 15_000;
const TRY_AGAIN_MAX_MS = 300_000;

/** How many more rooms a pool could take now: beside others on instances that run, and on those it could start. */
export function vacancyOf(state: PoolsPart, rules: HarborRules, id: ConfigName, at: number): Vacancy {
  const byRegion = new Map<string | null, number>();
  const add = (region: string | null, rooms: number) => byRegion.set(region, (byRegion.get(region) ?? 0) + rooms);
  const pool = rules.pools.get(id);
  if (pool === undefined) return { all: 0, byRegion };
  let all = 0;
  for (const one of state.pools.instances.values()) {
    const rooms = one.pool === id ? roomsLeftOn(state, pool, one) : 0;
    if (rooms === 0) continue;
    all += rooms;
    add(one.region, rooms);
  }
  const rooms = roomsEach(state, pool);
  const mayLaunch = launchesLeft(state, id, pool, at);
  const needs = nextNeeds(state, pool);
  const fresh = new Map<string | null, number>();
  let sum = 0;
  for (const [host, slots] of byHost(slotsOf(state, rules, pool), pool)) {
    const ports = portsLeft(state, pool, host, at, mayLaunch);
    sum += Math.min(
      ports,
      slots.reduce((free, slot) => free + fitsOn(slot, needs), 0),
    );
    for (const slot of slots) {
      const free = Math.min(ports, fitsOn(slot, needs));
      fresh.set(slot.rules.region, (fresh.get(slot.rules.region) ?? 0) + free);
    }
  }
  for (const [region, instances] of fresh) add(region, rooms * Math.min(instances, mayLaunch));
  return { all: all + rooms * Math.min(sum, mayLaunch), byRegion };
}

/** How many instances a pool may still launch: by its maximum, and by what became of the last. */
function launchesLeft(state: PoolsPart, id: ConfigName, { max }: PoolRules, at: number): number {
  const left = Math.max(0, max - (state.pools.live.get(id) ?? 0));
  const wait = failingFor(state, id, at);
  if (wait === undefined) return left;
  return wait.leftMs > 0 || isComing(state, id) ? 0 : Math.min(1, left);
}

/** How many of the last never came up, when these are too many, and how long until one more is tried. */
function failingFor(
  { plans }: PoolsPart,
  id: ConfigName,
  at: number,
): { failures: number; leftMs: number } | undefined {
  const { failures = 0, failedAtMs = 0 } = plans.byPool.get(id) ?? {};
  if (failures < FAILING_FROM) return undefined;
  const pauseMs = Math.min(TRY_AGAIN_MAX_MS, TRY_AGAIN_FIRST_MS * 2 ** Math.min(10, failures - FAILING_FROM));
  return { failures, leftMs: Math.max(0, failedAtMs + pauseMs - at) };
}

const isComing = ({ pools }: PoolsPart, id: ConfigName): boolean =>
  [...pools.instances.values()].some(
    ({ pool, gone, state }) => pool === id && !gone && (state === "launched" || state === "booting"),
  );

/** With several builds at once an older version goes on for the clients that it is for. */
const takesRooms = (state: PoolsPart, { byClient }: PoolRules, { build, version }: Instance): boolean =>
  byClient === "exact" || builds.views.takesNewRooms(state, build, version);

function roomsLeftOn(state: PoolsPart, pool: PoolRules, one: Instance): number {
  const { gone, state: is, build, holds, capacity } = one;
  const isThere = is === "open" || is === "busy" || is === "launched" || is === "booting";
  if (gone || !isThere || !linesOf(pool).includes(build) || !takesRooms(state, pool, one)) return 0;
  if (!hasPlaceFor(one, 1)) return 0;
  return capacity.matches === "one" ? 1 : capacity.rooms - holds.size;
}

function nextSpec(state: PoolsPart, { build }: PoolRules): BuildSpec | undefined {
  const version = builds.views.nextVersion(state, build);
  return version === undefined ? undefined : builds.views.spec(state, build, version);
}

const roomsEach = (state: PoolsPart, pool: PoolRules): number => nextSpec(state, pool)?.rooms ?? 1;

const nextNeeds = (state: PoolsPart, pool: PoolRules): Needs => needsOf(nextSpec(state, pool) ?? { needs: {} });

function byHost(slots: readonly Slot[], { host }: PoolRules): Map<string, Slot[]> {
  const found = new Map<string, Slot[]>();
  for (const slot of slots) {
    const at = host ?? slot.rules.host;
    found.set(at, [...(found.get(at) ?? []), slot]);
  }
  return found;
}

/** How many more instances a pool could start now. */
export function roomFor(state: PoolsPart, rules: HarborRules, id: ConfigName, at: number): number {
  const pool = rules.pools.get(id);
  if (pool === undefined) return 0;
  const left = Math.max(0, pool.max - (state.pools.live.get(id) ?? 0));
  const needs = nextNeeds(state, pool);
  let free = 0;
  for (const [host, slots] of byHost(slotsOf(state, rules, pool), pool)) {
    const onThem = slots.reduce((sum, slot) => sum + fitsOn(slot, needs), 0);
    free += Math.min(onThem, portsLeft(state, pool, host, at, left));
  }
  return Math.min(left, free);
}

/** How many of a pool's next instances an empty machine takes, of which no more is known than its size. */
export function fitOnEmpty(
  state: PoolsPart,
  pool: PoolRules,
  { max, cpus, memoryMb }: Pick<MachineRules, "max" | "cpus" | "memoryMb">,
): number {
  const needs = nextNeeds(state, pool);
  const byCpus = cpus === null || needs.cpus === 0 ? max : Math.floor(cpus / needs.cpus + 1e-9);
  const byMemory = memoryMb === null || needs.memoryMb === 0 ? max : Math.floor(memoryMb / needs.memoryMb);
  return Math.min(max, byCpus, byMemory);
}

/** Why a pool takes no more rooms, in all or in a region, as the end of a sentence. */
export function whyFull(
  state: PoolsPart,
  rules: HarborRules,
  { pool: id, region, at }: { readonly pool: ConfigName; readonly region: string | undefined; readonly at: number },
): string {
  const pool = rules.pools.get(id);
  if (pool === undefined) return `pool ${id} is not in the configuration`;
  const live = state.pools.live.get(id) ?? 0;
  if (live >= pool.max) return `pool ${id} runs ${live} of the ${pool.max} instances it may, and none has a place free`;
  const failing = failingFor(state, id, at);
  if (failing) {
    const { failures, leftMs } = failing;
    const next = leftMs > 0 ? `one more is tried in ${Math.ceil(leftMs / 1_000)} s` : "one more is being tried";
    return `the last ${counted(failures, "instance")} of pool ${id} never came up; ${next}`;
  }
  const slots = slotsOf(state, rules, pool).filter(
    ({ rules: { region: own } }) => region === undefined || own === null || own === region,
  );
  if (slots.length === 0) return `pool ${id} has no machine there`;
  const needs = nextNeeds(state, pool);
  const { from, to } = pool.ports;
  const texts = slots.map(
    (slot) => `machine ${slot.id} ${whyNotOn(slot, needs) ?? `has no port free between ${from} and ${to}`}`,
  );
  return `pool ${id}: ${texts.join(", ")}`;
}
