import type { ConfigName, PlanRules, PoolRules } from "@yellow-harbor/protocol";
import { builds } from "../builds/index.ts";
import { accept, type Decision, nothingToDo, type PoolsContext, type Refusal, refuse } from "../model/decision.ts";
import { decideBy } from "../model/handlers.ts";
import type { PlanCommand } from "../model/planner/commands.ts";
import type { Instance } from "../model/pools/state.ts";
import type { Done } from "../model/replies.ts";
import type { PoolsPart } from "../model/state.ts";
import { backOffMs, planOf, stepOf } from "../planning/plan.ts";
import { pools } from "../pools/index.ts";
import { demandOf, instancesOf, knownOf, planText } from "./demand.ts";
import { cool, schedule, warm } from "./windows.ts";

/** How often a pool that keeps instances ready is looked at, beside whenever one of them changes. */
const LOOK_EVERY_MS = 1_000;

type Doing<K extends PlanCommand["do"]> = Extract<PlanCommand, { do: K }>;

export const decidePlan = decideBy<PlanCommand, PoolsPart>({
  "plan.consider": (context, { pool }) =>
    context.rules.pools.has(pool) ? consider(context, pool) : unknownPool(context, pool),
  "plan.set-mode": setMode,
  "plan.pin": pin,
  "plan.schedule": schedule,
  "plan.warm": (context, command) => planned(context, command.pool) ?? warm(context, command),
  "plan.cool": (context, command) => planned(context, command.pool) ?? cool(context, command),
});

function unknownPool({ rules }: PoolsContext, pool: ConfigName): Refusal {
  const accepted = [...rules.pools.keys()];
  return refuse("pool-unknown", `There is no pool ${pool}; there are ${accepted.join(", ")}.`, { accepted });
}

/** Why a pool cannot be planned; undefined when it can. */
function planned(context: PoolsContext, pool: ConfigName): Refusal | undefined {
  const rules = context.rules.pools.get(pool);
  if (rules === undefined) return unknownPool(context, pool);
  return rules.plan === null ? noPlan(pool) : undefined;
}

const reply = (): Done => ({});

function setMode(context: PoolsContext, { pool, mode }: Doing<"plan.set-mode">): Decision<Done> {
  if (!context.rules.pools.has(pool)) return unknownPool(context, pool);
  const known = knownOf(context.state, pool);
  // Open once more is a word as well: what has failed too often is tried again.
  if (known.mode === mode && known.failures === 0) return accept([], { reply });
  return accept([{ kind: "plan.mode-set", pool, mode }], { reply });
}

function pin(context: PoolsContext, { pool, instances }: Doing<"plan.pin">): Decision<Done> {
  const rules = context.rules.pools.get(pool);
  if (rules === undefined) return unknownPool(context, pool);
  if (rules.plan === null) return noPlan(pool);
  if (instances !== null && instances > rules.max) {
    const detail = `Pool ${pool} runs at most ${rules.max} instances; ${instances} is too many.`;
    return refuse("request-invalid", detail, {
      fields: [{ path: "instances", message: `expected 0 to ${rules.max}` }],
    });
  }
  if (knownOf(context.state, pool).pinned === instances) return accept([], { reply });
  return accept([{ kind: "plan.pinned", pool, instances }], { reply });
}

const noPlan = (pool: ConfigName) =>
  refuse("pool-unplanned", `Pool ${pool} keeps no instances ready; give it a plan in the configuration.`);

/** Orders what is missing and retires what is not needed any more. Says so only when something changes by it. */
function consider(context: PoolsContext, id: ConfigName): Decision {
  const { state, rules, at } = context;
  const pool = rules.pools.get(id);
  const known = knownOf(state, id);
  if (pool?.plan == null || known.mode === "paused") return nothingToDo;
  const again = { kind: "plan-pool", subject: id, at: at + LOOK_EVERY_MS } as const;
  const demand = demandOf(state, rules, id, at);
  const plan = planOf(pool.plan, pool.max, demand);
  const { idle, aside } = instancesOf(state, id);
  const step = stepOf(plan, idle.length, known.lower, pool.plan.cooldownMs, at);
  const backOff = backOffMs(known.failures, pool.plan.giveUpAfter);
  const mayLaunch = backOff !== null && at >= known.failedAtMs + backOff;
  // What is about to be retired is there at once; another has to come up first.
  const back = aside.slice(0, step.launch).map((one) => one.id);
  const old = mayLaunch ? makesWay(context, pool, id) : undefined;
  const missing = Math.max(step.launch - back.length, old === undefined ? 0 : 1);
  const launch = mayLaunch && missing > 0 ? Math.min(missing, pools.views.roomFor(state, rules, id, at)) : 0;
  const launchIn = missingIn(pool.plan, [...idle, ...aside.slice(0, step.launch)], launch);
  const retire = [
    ...new Set([...retirable(pool.plan, idle).slice(0, step.retire), ...(old ? [old] : [])].map((one) => one.id)),
  ];
  const isAsBefore =
    launch === 0 &&
    back.length === 0 &&
    retire.length === 0 &&
    known.last?.wanted === plan.wanted &&
    known.lower?.sinceMs === step.lower?.sinceMs &&
    known.lower?.highest === step.lower?.highest;
  if (isAsBefore) return { ...accept([]), again };
  const why = planText(pool, demand, plan);
  return {
    ...accept([
      {
        kind: "plan.made",
        pool: id,
        plan,
        lower: step.lower,
        launch,
        ...(launchIn && { launchIn }),
        retire,
        ...(back.length > 0 && { back }),
        why,
      },
    ]),
    again,
  };
}

/** How many of those that are launched have to be in each region, for the spare that it is to have; undefined for none. */
function missingIn(
  { spareIn }: PlanRules,
  idle: readonly Instance[],
  launch: number,
): Record<string, number> | undefined {
  let left = launch;
  const missing = Object.entries(spareIn).flatMap(([region, spare]): [string, number][] => {
    const many = Math.min(left, Math.max(0, spare - idle.filter((one) => one.region === region).length));
    left -= many;
    return many > 0 ? [[region, many]] : [];
  });
  return missing.length > 0 ? Object.fromEntries(missing) : undefined;
}

/** Those of the idle that may go: in no region more than leaves its spare. */
function retirable({ spareIn }: PlanRules, idle: readonly Instance[]): Instance[] {
  const left = new Map(
    Object.keys(spareIn).map((region) => [region, idle.filter((one) => one.region === region).length]),
  );
  return idle.filter(({ region }) => {
    const many = left.get(region ?? "");
    if (many === undefined || region === null) return true;
    if (many <= (spareIn[region] ?? 0)) return false;
    left.set(region, many - 1);
    return true;
  });
}

/**
 * An idle instance that makes way for one of the version that is being rolled out, which has less than its share of those
 * that run: where instances serve room after room nothing new would be launched otherwise. One at a time.
 */
function makesWay({ state }: PoolsContext, { build }: PoolRules, id: ConfigName) {
  const canary = builds.views.rollingOut(state, build);
  if (canary === undefined) return undefined;
  const { live, idle } = instancesOf(state, id);
  const own = live.filter(({ version }) => version === canary.version);
  const isComing = live.some((one) => one.state === "launched" || one.state === "booting");
  if (isComing || own.length >= Math.max(1, Math.floor(canary.share * live.length))) return undefined;
  return idle.find(({ version, state: is }) => version !== canary.version && is === "open");
}
