export { type Entrant, enter } from "./entrant.ts";
export { faultsOfRules, REGIONS_MOST, type RuleFault } from "./faults.ts";
export { funnelOf } from "./funnel.ts";
export { type Match, type MatchQuality, qualityOf, sidesOf } from "./match.ts";
export { LOOKED_AT_AGAIN, MatchPool } from "./pool.ts";
export { type Comers, type Gap, refillOf } from "./refill.ts";
export type * from "./rules.ts";
export type { Row } from "./waiting.ts";
