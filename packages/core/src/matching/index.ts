export { type Entrant, entrantOf } from "./entrant.ts";
export { faultsOfRules, REGIONS_MAX, type RuleFault } from "./faults.ts";
export { funnelOf } from "./funnel.ts";
export { type Match, type MatchQuality, qualityOf, sidesOf } from "./match.ts";
export { type Offer, offerOf } from "./offer.ts";
export { EXAMINED_AGAIN, MatchPool } from "./pool.ts";
export { type Gap, type JoiningPlayers, refillOf } from "./refill.ts";
export type * from "./rules.ts";
export type { Row } from "./waiting.ts";
