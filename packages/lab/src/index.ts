export { Conditions } from "./conditions.ts";
export { oneAfterTheOther } from "./days.ts";
export { type Figures, figuresOf, type Spread } from "./figures.ts";
export { generate, TrafficPlan } from "./generate.ts";
export { type EndingLine, linesOf, type MatchLine, type Played, type PlayOptions, play } from "./play.ts";
export {
  type DemandLine,
  DemandPlan,
  generateDemand,
  type ReadDemand,
  readDemand,
  recordedDemand,
} from "./pools/demand.ts";
export { Machines, type PlayedPool, type PoolPolicy, playPool } from "./pools/play-pool.ts";
export {
  type PoolFigures,
  type PoolFoot,
  poolComparison,
  poolFigures,
  poolReport,
  type RanPolicy,
} from "./pools/pool-report.ts";
export { type Rerated, rerate } from "./ratings.ts";
export { type Recorded, type RecordedTraffic, recordedTraffic } from "./recorded.ts";
export { comparison, type RanRules, type ReportFoot, report } from "./report.ts";
export { type Advice, adviceOf, frontOf, SWEEP_COLUMNS, sweepReport, sweepRow, type Tried } from "./sweep.ts";
export { type ReadTraffic, readTraffic, TicketLine } from "./traffic.ts";
export { type Change, combinations, readVary, type Vary, withChange } from "./vary.ts";
