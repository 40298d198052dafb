export { backOffMs, type Lower, percentile, planOf, stepOf } from "./plan.ts";
