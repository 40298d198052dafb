export { backOffMs, type Lower, type PlanRules, percentile, planOf, stepOf } from "./plan.ts";
