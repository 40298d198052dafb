import { type ConfigName, type PoolRules, timeText } from "@yellow-harbor/protocol";
import { builds } from "../builds/index.ts";
import { newPoolPlan, type PoolPlan } from "../model/planner/state.ts";
import { isDraining, isIdle } from "../model/pools/holds.ts";
import type { HarborRules } from "../model/rules.ts";
import type { PoolsPart } from "../model/state.ts";
import { type Demand, type Plan, percentile } from "../planning/plan.ts";
import { windowsOn } from "./window-times.ts";

/** Rooms that asked within so long count for the rate. */
const RATE_OVER_MS = 60_000;

export const knownOf = ({ plans }: PoolsPart, pool: ConfigName): PoolPlan =>
  plans.byPool.get(pool) ?? newPoolPlan(pool);

/** Instances of a pool that run, and those of them that nobody holds: the longest open last. */
export function instancesOf({ pools }: PoolsPart, pool: ConfigName) {
  const live = [...pools.instances.values()].filter(
    (one) => one.pool === pool && !one.gone && one.state !== "draining" && one.state !== "failed",
  );
  const idle = live.filter(isIdle);
  const aside = [...pools.instances.values()].filter((one) => one.pool === pool && isDraining(one) && isIdle(one));
  const isUp = (state: string) => Number(state === "open");
  return { live, aside, idle: idle.sort((a, b) => isUp(a.state) - isUp(b.state) || b.launchedAtMs - a.launchedAtMs) };
}

export function demandOf(state: PoolsPart, rules: HarborRules, pool: ConfigName, atMs: number): Demand {
  const known = knownOf(state, pool);
  const { live, idle } = instancesOf(state, pool);
  const { rooms, queues } = state.seen;
  const counting = rooms.countingDown().filter((level) => rules.levels.get(level)?.pool === pool).length;
  const asking = queues.confirming().filter((queue) => poolsOfQueue(rules, queue).includes(pool)).length;
  const asked = known.asked.filter((at) => at > atMs - RATE_OVER_MS).length;
  const version = builds.views.nextVersion(state, rules.pools.get(pool)?.build ?? "");
  const spec =
    version === undefined ? undefined : builds.views.spec(state, rules.pools.get(pool)?.build ?? "", version);
  return {
    rooms: live.reduce((sum, one) => sum + one.holds.size, 0),
    roomsEach: Math.max(1, spec?.rooms ?? 1),
    held: live.length - idle.length,
    idle: idle.length,
    counting,
    asking,
    pinned: known.pinned,
    windows: windowsOn(known.windows, atMs),
    affordable: affordableOf(rules.pools.get(pool)),
    ratePerS: asked / (RATE_OVER_MS / 1_000),
    bootS: percentile(known.boots, 0.9) / 1_000,
  };
}

/** So many instances cost what the plan may at most. */
function affordableOf(pool: PoolRules | undefined): number | null {
  const { plan, pricePerSecond } = pool ?? {};
  if (plan?.costPerHour == null || pricePerSecond == null || pricePerSecond === 0) return null;
  return Math.floor(plan.costPerHour / (pricePerSecond * 3_600) + 1e-9);
}

function poolsOfQueue({ queues, roomKinds, levels }: HarborRules, queue: ConfigName): (ConfigName | null)[] {
  const kind = roomKinds.get(queues.get(queue)?.roomKind ?? "");
  return (kind?.levels ?? []).map((level) => levels.get(level)?.pool ?? null);
}

function boundText({ max, plan, pricePerSecond }: PoolRules, why: Plan["why"], heldBack: number): string {
  if (why === "max") return `, limited to the maximum of ${max}`;
  if (why === "min") return ", raised to the minimum";
  if (why !== "cost") return "";
  const each = Math.round((pricePerSecond ?? 0) * 3_600 * 100) / 100;
  return `, limited by costs of ${plan?.costPerHour} an hour at ${each} each: ${heldBack} held back`;
}

/** The arithmetic of a plan in words, with its numbers. */
export function planText(
  rules: PoolRules,
  demand: Demand,
  { wanted, live, spare, meanwhile, why, heldBack }: Plan,
): string {
  const { held, counting, asking, ratePerS, bootS, windows } = demand;
  const parts = [
    `${held} held by rooms`,
    ...(counting > 0 ? [`${counting} for rooms that count down`] : []),
    ...(asking > 0 ? [`${asking} for matches that are confirmed`] : []),
    ...(meanwhile > 0
      ? [`${meanwhile} asked for while one comes up (${ratePerS.toFixed(2)} a second, ${bootS.toFixed(1)} s)`]
      : []),
    `${spare} to spare`,
  ];
  const sum = parts.join(", ");
  if (why === "pinned") return `${wanted} wanted: an operator has pinned it; ${live} run`;
  const on = windows.map(({ why: cause, untilMs }) => `${cause}, until ${timeText(untilMs)}`);
  const larger = on.length === 0 ? "" : ` (larger now: ${on.join("; ")})`;
  return `${wanted} wanted: ${sum}${boundText(rules, why, heldBack)}${larger}; ${live} run`;
}
