export { applyPlan, learnFrom } from "./apply.ts";
export { decidePlan } from "./decide.ts";
export { backOffMs, type Lower, type PlanRules, percentile, planOf, stepOf } from "./plan.ts";
export { tellPlan } from "./tell.ts";
export { poolView } from "./view.ts";
