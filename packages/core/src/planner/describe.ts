import { counted } from "@yellow-harbor/protocol";
import { assertNever } from "../model/decision.ts";
import type { PlanEvent } from "../model/planner/events.ts";

/** The event in a sentence. */
export function describePlan(event: PlanEvent): string | undefined {
  const { pool } = event;
  switch (event.kind) {
    case "plan.made": {
      const { launch, retire, why, plan } = event;
      if (event.back !== undefined && event.back.length > 0) {
        return `Pool ${pool} reclaims ${event.back.length}${launch > 0 ? ` and launches ${launch}` : ""}: ${why}.`;
      }
      if (launch > 0) return `Pool ${pool} launches ${launch}: ${why}.`;
      if (retire.length === 0) return undefined;
      const left = plan.live - retire.length;
      return `Pool ${pool} retires ${retire.length} of ${plan.live}: no more than ${left} were needed during its cooldown.`;
    }
    case "plan.mode-set":
      return event.mode === "paused"
        ? `The planner of pool ${pool} is paused: it launches and retires nothing.`
        : `The planner of pool ${pool} goes on.`;
    case "plan.pinned":
      return event.instances === null
        ? `Pool ${pool} is planned by its demand again.`
        : `Pool ${pool} is pinned to ${event.instances} instances.`;
    case "plan.windows-set": {
      const many = event.windows.length;
      return `Pool ${pool} has ${counted(many, "time")} in which it is to be larger, now or to come: ${event.why}.`;
    }
    default:
      return assertNever(event);
  }
}
