export { type Figures, figuresOf, type Spread } from "./figures.ts";
export { generate, TrafficPlan } from "./generate.ts";
export { type EndingLine, linesOf, type MatchLine, type Played, play } from "./play.ts";
export { type Recorded, type RecordedTraffic, recordedTraffic } from "./recorded.ts";
export { comparison, type RanRules, type ReportFoot, report } from "./report.ts";
export { type ReadTraffic, readTraffic, TicketLine } from "./traffic.ts";
