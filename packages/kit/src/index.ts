export { type Spot, type SpreadPlan, spotOf, spotsOf } from "@yellow-harbor/protocol";
export { RefusedError, UnreachableError } from "./call.ts";
export {
  type Environment,
  type InstanceHandlers,
  InstanceKit,
  type KitEnvironment,
  type MatchChange,
  type ReportDetails,
  readEnvironment,
} from "./instance-kit.ts";
export { type Kit, openKit, StandAloneKit, type StandAloneOptions } from "./stand-alone.ts";
