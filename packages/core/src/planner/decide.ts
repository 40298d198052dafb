import type { ConfigName } from "@yellow-harbor/protocol";
import { builds } from "../builds/index.ts";
import { accept, assertNever, type Decision, nothingToDo, type PoolsMoment, refuse } from "../model/decision.ts";
import type { PlanCommand } from "../model/planner/commands.ts";
import type { PoolRules } from "../model/rules.ts";
import { backOffMs, planOf, stepOf } from "../planning/plan.ts";
import { pools } from "../pools/index.ts";
import { demandOf, instancesOf, knownOf, planText } from "./demand.ts";

/** How often a pool that keeps instances ready is looked at, beside whenever one of them changes. */
const LOOK_EVERY_MS = 1_000;

export function decidePlan(moment: PoolsMoment, command: PlanCommand): Decision {
  const { state, rules } = moment;
  const pool = rules.pools.get(command.pool);
  if (pool === undefined) {
    const accepted = [...rules.pools.keys()];
    return refuse("pool-unknown", `There is no pool ${command.pool}; there are ${accepted.join(", ")}.`, { accepted });
  }
  const reply = () => ({});
  switch (command.do) {
    case "plan.consider":
      return consider(moment, command.pool);
    case "plan.set-mode": {
      const { pool: id, mode } = command;
      const known = knownOf(state, id);
      // Open once more is a word as well: what has failed too often is tried again.
      if (known.mode === mode && known.failures === 0) return accept([], { reply });
      return accept([{ kind: "plan.mode-set", pool: id, mode }], { reply });
    }
    case "plan.pin": {
      const { pool: id, instances } = command;
      if (pool.plan === null) return noPlan(id);
      if (instances !== null && instances > pool.most) {
        return refuse(
          "request-invalid",
          `Pool ${id} runs ${pool.most} instances at the most; ${instances} is too many.`,
          {
            fields: [{ path: "instances", message: `expected 0 to ${pool.most}` }],
          },
        );
      }
      if (knownOf(state, id).pinned === instances) return accept([], { reply });
      return accept([{ kind: "plan.pinned", pool: id, instances }], { reply });
    }
    default:
      return assertNever(command);
  }
}

const noPlan = (pool: ConfigName) =>
  refuse("pool-unplanned", `Pool ${pool} keeps no instances ready; give it a plan in the configuration.`);

/** Orders what is missing and retires what is not needed any more. Says so only when something changes by it. */
function consider(moment: PoolsMoment, id: ConfigName): Decision {
  const { state, rules, at } = moment;
  const pool = rules.pools.get(id);
  const known = knownOf(state, id);
  if (pool?.plan == null || known.mode === "paused") return nothingToDo;
  const again = { kind: "plan-pool", subject: id, at: at + LOOK_EVERY_MS } as const;
  const demand = demandOf(state, rules, id, at);
  const plan = planOf(pool.plan, pool.most, demand);
  const { idle, aside } = instancesOf(state, id);
  const step = stepOf(plan, idle.length, known.lower, pool.plan.settleMs, at);
  const backOff = backOffMs(known.failures, pool.plan.giveUpAfter);
  const mayOrder = backOff !== null && at >= known.failedAtMs + backOff;
  // What is about to be retired is there at once; another has to come up first.
  const back = aside.slice(0, step.order).map((one) => one.id);
  const hosts = pools.views.hosts(rules, pool);
  const old = mayOrder ? makesWay(moment, pool, id) : undefined;
  const missing = Math.max(step.order - back.length, old === undefined ? 0 : 1);
  const order = mayOrder && missing > 0 ? Math.min(missing, pools.views.roomFor(state, id, pool, hosts, at)) : 0;
  const retire = [...new Set([...idle.slice(0, step.retire), ...(old ? [old] : [])].map((one) => one.id))];
  const isAsBefore =
    order === 0 &&
    back.length === 0 &&
    retire.length === 0 &&
    known.last?.wanted === plan.wanted &&
    known.lower?.sinceMs === step.lower?.sinceMs &&
    known.lower?.highest === step.lower?.highest;
  if (isAsBefore) return { ...accept([]), again };
  const why = planText(pool, demand, plan);
  return {
    ...accept([
      { kind: "plan.made", pool: id, plan, lower: step.lower, order, retire, ...(back.length > 0 && { back }), why },
    ]),
    again,
  };
}

/**
 * An idle instance that makes way for one of the version that is being rolled out, which has less than its share of those
 * that run: where instances serve room after room nothing new would be ordered otherwise. One at a time.
 */
function makesWay({ state }: PoolsMoment, { build }: PoolRules, id: ConfigName) {
  const canary = builds.views.rollingOut(state, build);
  if (canary === undefined) return undefined;
  const { live, idle } = instancesOf(state, id);
  const own = live.filter(({ version }) => version === canary.version);
  const isComing = live.some((one) => one.state === "ordered" || one.state === "booting");
  if (isComing || own.length >= Math.max(1, Math.floor(canary.share * live.length))) return undefined;
  return idle.find(({ version, state: is }) => version !== canary.version && is === "open");
}
