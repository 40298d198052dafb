import { clearDeadline, setDeadline } from "../deadlines/index.ts";
import { assertNever } from "../model/decision.ts";
import type { PlanEvent } from "../model/planner/events.ts";
import { planFor } from "../model/planner/state.ts";
import type { PoolEvent } from "../model/pools/events.ts";
import type { PoolsPart } from "../model/state.ts";

/** So much is remembered of what a pool was asked for and how long its instances took to come up. */
const REMEMBERED = 200;

export function applyPlan(state: PoolsPart, event: PlanEvent, at: number): void {
  const known = planFor(state.plans, event.pool);
  switch (event.kind) {
    case "plan.made":
      known.lower = event.lower;
      known.last = { ...event.plan, atMs: at };
      return;
    case "plan.mode-set":
      known.mode = event.mode;
      known.failures = 0;
      known.lower = null;
      if (event.mode === "paused") clearDeadline(state.deadlines, "plan-pool", event.pool);
      else setDeadline(state.deadlines, "plan-pool", event.pool, at);
      return;
    case "plan.pinned":
      known.pinned = event.instances;
      known.lower = null;
      return setDeadline(state.deadlines, "plan-pool", event.pool, at);
    case "plan.windows-set":
      known.windows = event.windows;
      return setDeadline(state.deadlines, "plan-pool", event.pool, at);
    default:
      assertNever(event);
  }
}

const CHANGES: ReadonlySet<PoolEvent["kind"]> = new Set([
  ...(["instance.launched", "instance.allocated", "instance.returned", "instance.failed", "instance.exited"] as const),
  ...(["instance.stop-requested", "instance.draining"] as const),
]);

/** What a pool learns from its instances: what is asked for, how long they take, and whether they come up at all. */
export function learnFrom(state: PoolsPart, event: PoolEvent, pool: string, at: number): void {
  const known = planFor(state.plans, pool);
  const instance = state.pools.instances.get(event.instance);
  // Whatever changes among its instances may change what it needs.
  if (known.last !== null && known.mode === "open" && CHANGES.has(event.kind)) {
    setDeadline(state.deadlines, "plan-pool", pool, at);
  }
  switch (event.kind) {
    case "instance.launched":
      if (event.room !== undefined) known.asked = [...known.asked, at].slice(-REMEMBERED);
      return;
    case "instance.allocated":
      known.asked = [...known.asked, at].slice(-REMEMBERED);
      return;
    case "instance.opened":
      known.boots = [...known.boots, at - (instance?.launchedAtMs ?? at)].slice(-REMEMBERED);
      known.failures = 0;
      return;
    case "instance.failed":
    case "instance.exited":
      // One that fails is reported again when its process is gone.
      if (event.neverOpen) {
        known.failures += 1;
        known.failedAtMs = at;
      }
      return;
    default:
      return;
  }
}
