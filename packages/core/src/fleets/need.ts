import { type ConfigName, counted, type MachineGroupRules, type PoolRules } from "@yellow-harbor/protocol";
import type { HarborRules } from "../model/rules.ts";
import type { PoolsPart } from "../model/state.ts";
import { planner } from "../planner/index.ts";
import { pools } from "../pools/index.ts";

/** What the pools of a group need beyond the machines that there are. */
export interface Need {
  readonly machines: number;
  /** The arithmetic, in words; empty when nothing is missing. */
  readonly why: string;
}

/** How many machines of a group would hold what its pools want and have no room for. */
export function needOf(state: PoolsPart, rules: HarborRules, group: ConfigName, at: number): Need {
  let machines = 0;
  const parts: string[] = [];
  for (const [id, pool] of rules.pools) {
    if (!pool.machines.includes(group)) continue;
    const missing = missingIn(state, rules, id, at);
    if (missing <= 0) continue;
    const each = perMachine(state, rules, group, pool);
    if (each === 0) continue;
    machines += Math.ceil(missing / each);
    parts.push(`pool ${id} wants ${missing} more than its machines have room for, and a machine takes ${each}`);
  }
  return { machines, why: parts.join("; ") };
}

/** Instances that a pool's plan wants and that fit nowhere. While they do not come up, more machines are no help. */
function missingIn(state: PoolsPart, rules: HarborRules, id: ConfigName, at: number): number {
  const view = planner.views.pool(state, rules, id, at);
  if (view?.plan === undefined || view.failures > 0 || view.mode === "paused") return 0;
  return view.plan.wanted - view.live - pools.views.roomFor(state, rules, id, at);
}

/** Instances of a pool's next version that a machine of a group takes. */
function perMachine(state: PoolsPart, rules: HarborRules, group: ConfigName, pool: PoolRules): number {
  const alike = rules.machineGroups.get(group);
  return alike === undefined ? 0 : pools.views.fitOnEmpty(state, pool, alike);
}

/** Machines of a group: all, those that are not given back, and those that are on order. */
export function sizeOf(
  { machines, fleets }: PoolsPart,
  group: ConfigName,
): { readonly all: number; readonly there: number; readonly ordered: number } {
  const all = [...machines.enrolled.values()].filter((one) => one.group === group);
  return {
    all: all.length,
    there: all.filter(({ machine }) => !fleets.returns.has(machine)).length,
    ordered: [...fleets.orders.values()].filter((one) => one.group === group).length,
  };
}

/** A machine that nothing has run on for so long that it may go, the longest idle first; undefined when there is none. */
export function idleMachine(
  { machines, pools: { onMachine, idleSinceMs }, fleets }: PoolsPart,
  group: ConfigName,
  { idleMs }: NonNullable<MachineGroupRules["fleet"]>,
  at: number,
): { readonly machine: ConfigName; readonly why: string } | undefined {
  const idle = [...machines.enrolled.values()].flatMap(({ machine, group: own }) => {
    const isThere = machines.agents.get(machine)?.isThere === true;
    const isFree = (onMachine.get(machine) ?? 0) === 0 && !machines.closed.has(machine) && !fleets.returns.has(machine);
    const sinceMs = idleSinceMs.get(machine) ?? machines.agents.get(machine)?.sinceMs ?? at;
    return own === group && isThere && isFree && at - sinceMs >= idleMs ? [{ machine, sinceMs }] : [];
  });
  const [longest] = idle.sort((a, b) => a.sinceMs - b.sinceMs);
  if (longest === undefined) return undefined;
  const s = Math.round((at - longest.sinceMs) / 1_000);
  return { machine: longest.machine, why: `nothing has run there for ${counted(s, "second")}, and no pool needs it` };
}
