export { backOffMs, type Demand, type Lower, type Plan, type PlanRules, percentile, planOf, stepOf } from "./plan.ts";
