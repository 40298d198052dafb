import { assertNever } from "../harbor/decision.ts";
import type { PlanEvent } from "./events.ts";

/** The event in a sentence. */
export function tellPlan(event: PlanEvent): string | undefined {
  const { pool } = event;
  switch (event.kind) {
    case "plan.made": {
      const { order, retire, why, lower } = event;
      if (order > 0) return `Pool ${pool} orders ${order}: ${why}.`;
      if (retire.length > 0) return `Pool ${pool} retires ${retire.length}: ${why}.`;
      return lower ? undefined : `Pool ${pool}: ${why}.`;
    }
    case "plan.mode-set":
      return event.mode === "paused"
        ? `The planner of pool ${pool} is paused: it orders and retires nothing.`
        : `The planner of pool ${pool} goes on.`;
    case "plan.pinned":
      return event.instances === null
        ? `Pool ${pool} is planned by its demand again.`
        : `Pool ${pool} is pinned to ${event.instances} instances.`;
    default:
      return assertNever(event);
  }
}
