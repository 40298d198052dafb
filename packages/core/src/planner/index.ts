import type { Exported } from "../model/capability.ts";
import type { PlanCommand } from "../model/planner/commands.ts";
import type { PlanEvent } from "../model/planner/events.ts";
import { newPlansState } from "../model/planner/state.ts";
import { applyPlan, learnFrom } from "./apply.ts";
import { decidePlan } from "./decide.ts";
import { describePlan } from "./describe.ts";
import { poolView } from "./view.ts";

/** How many instances each pool keeps ready. */
export const planner = {
  names: ["plan"],
  newState: () => ({ plans: newPlansState() }),
  decide: decidePlan,
  apply: applyPlan,
  describe: (_state, event) => describePlan(event),
  due: { "plan-pool": (pool) => ({ do: "plan.consider", pool }) },
  /** What changes with an event of another capability. */
  also: { learn: learnFrom },
  views: { pool: poolView },
} satisfies Exported<PlanCommand, PlanEvent>;
