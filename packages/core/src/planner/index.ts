export { applyPlan, learnFrom } from "./apply.ts";
export { decidePlan } from "./decide.ts";
export type { PlanRules } from "./plan.ts";
export { tellPlan } from "./tell.ts";
export { poolView } from "./view.ts";
