import type { ConfigName } from "@yellow-harbor/protocol";
import type { Lower, Plan, PlanWindow } from "../../planning/plan.ts";

/** What is known of a pool beside its instances. */
export interface PoolPlan {
  readonly pool: ConfigName;
  mode: "open" | "paused";
  pinned: number | null;
  /** When rooms asked for instances lately, in milliseconds; oldest first. */
  asked: readonly number[];
  /** Milliseconds from launch to open, of the last that came up. */
  boots: readonly number[];
  /** In a row, of instances that were never open. */
  failures: number;
  failedAtMs: number;
  lower: Lower | null;
  /** Times in which it is to be larger, now or to come, the earliest first. */
  windows: readonly PlanWindow[];
  /** The last plan that changed something. */
  last: (Plan & { readonly atMs: number }) | null;
}

export interface PlansState {
  readonly byPool: Map<ConfigName, PoolPlan>;
}

export const newPlansState = (): PlansState => ({ byPool: new Map() });

export const newPoolPlan = (pool: ConfigName): PoolPlan => ({
  pool,
  mode: "open",
  pinned: null,
  asked: [],
  boots: [],
  failures: 0,
  failedAtMs: 0,
  lower: null,
  windows: [],
  last: null,
});

/** Made when something is first known of a pool. */
export function planFor(plans: PlansState, pool: ConfigName): PoolPlan {
  const known = plans.byPool.get(pool);
  if (known) return known;
  const plan = newPoolPlan(pool);
  plans.byPool.set(pool, plan);
  return plan;
}
