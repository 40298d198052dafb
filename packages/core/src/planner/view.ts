import { type PoolView, timeText } from "@yellow-harbor/protocol";
import type { HarborRules } from "../model/rules.ts";
import type { PoolsPart } from "../model/state.ts";
import { backOffMs, type PlanWindow, planOf, stepOf } from "../planning/plan.ts";
import { demandOf, instancesOf, knownOf, planText } from "./demand.ts";

/** A pool with its plan as it would be made now, and the numbers that it comes from; undefined when there is none. */
export function poolView(state: PoolsPart, rules: HarborRules, id: string, atMs: number): PoolView | undefined {
  const pool = rules.pools.get(id);
  if (pool === undefined) return undefined;
  const known = knownOf(state, id);
  const { live, idle } = instancesOf(state, id);
  const draining = [...state.pools.instances.values()].filter(
    (one) => one.pool === id && one.state === "draining" && !one.gone,
  );
  const base = {
    id,
    build: pool.build,
    max: pool.max,
    mode: known.mode,
    live: live.length,
    held: live.length - idle.length,
    idle: idle.filter(({ state: now }) => now === "open").length,
    draining: draining.length,
    coming: live.filter(({ state: now }) => now === "launched" || now === "booting").length,
    ...(known.pinned !== null && { pinned: known.pinned }),
    failures: known.failures,
    ...(known.windows.length > 0 && { windows: [...known.windows] }),
  };
  if (pool.plan === null) {
    return { ...base, text: [`Pool ${id} keeps nothing ready: an instance is started when a room asks for one.`] };
  }
  const demand = demandOf(state, rules, id, atMs);
  const plan = planOf(pool.plan, pool.max, demand);
  const step = stepOf(plan, idle.length, known.lower, pool.plan.cooldownMs, atMs);
  return {
    ...base,
    plan: { ...plan, launch: step.launch, retire: step.retire, ratePerS: demand.ratePerS, bootS: demand.bootS },
    text: [
      `Pool ${id}: ${planText(pool, demand, plan)}.`,
      ...(known.mode === "paused" ? ["Its planner is paused: it launches and retires nothing until it goes on."] : []),
      ...troubleText(known.failures, known.failedAtMs, atMs, pool.plan.giveUpAfter),
      ...comingText(known.windows, atMs),
      doText(step.launch, step.retire),
      ...(step.lower
        ? [
            `The need has been lower for ${seconds(atMs - step.lower.sinceMs)}; after ${seconds(pool.plan.cooldownMs)} it shrinks to ${step.lower.highest}, the highest need in that time.`,
          ]
        : []),
    ],
  };
}

/** Times to come in which it is to be larger. */
const comingText = (windows: readonly PlanWindow[], atMs: number): string[] =>
  windows
    .filter(({ fromMs }) => fromMs > atMs)
    .map(({ fromMs, untilMs, min, spare, why }) => {
      const [from, until] = [fromMs, untilMs].map(timeText);
      return `From ${from} until ${until} it is larger (at least ${min}, ${spare} to spare): ${why}.`;
    });

const seconds = (ms: number) => `${Math.round(ms / 1_000)} s`;

function doText(launch: number, retire: number): string {
  if (launch > 0) return `It launches ${launch} now.`;
  return retire > 0 ? `It retires ${retire} now, of those that nobody holds.` : "There is nothing to do now.";
}

function troubleText(failures: number, failedAtMs: number, atMs: number, giveUpAfter: number): string[] {
  if (failures === 0) return [];
  const backOff = backOffMs(failures, giveUpAfter);
  const count = failures === 1 ? "The last instance" : `The last ${failures} instances`;
  if (backOff === null) {
    return [
      `${count} failed before they were open: nothing is launched ahead until \`yh pool resume\`. Their output says why.`,
    ];
  }
  const leftMs = failedAtMs + backOff - atMs;
  return leftMs > 0
    ? [`${count} failed before being open: nothing is launched ahead for another ${seconds(leftMs)}.`]
    : [];
}
