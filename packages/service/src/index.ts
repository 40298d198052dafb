export { changesBetween } from "./config/changes.ts";
export { configJsonSchema } from "./config/json-schema.ts";
export {
  checkQueueChange,
  type LoadedConfig,
  type LoadedQueue,
  loadConfig,
  loadPoolChange,
  loadQueueChange,
  parseConfig,
} from "./config/load.ts";
export { originsOf } from "./config/origins.ts";
export { configVariables, overridesFrom } from "./config/overrides.ts";
export { type QueueConfig, queueRulesOf } from "./config/queue.ts";
export { RISKS } from "./config/risks.ts";
export { Config, type PoolConfig } from "./config/schema.ts";
export type { ConfigFault, Override } from "./config/yaml-file.ts";
export type { CopyContents } from "./history/copies.ts";
export { openSqliteHarbor } from "./journal/sqlite-harbor.ts";
export {
  backupFolder,
  inspectBackup,
  readAgentToken,
  readGroupToken,
  readOperatorToken,
  restoreBackup,
  serve,
} from "./serve.ts";
export { type RunningService, type ServeOptions, StartError } from "./start.ts";
export { SERVICE_VERSION } from "./version.ts";
export { versions } from "./versions.ts";

/** The runtime and its ports, for who puts a world of its own around them; loaded only by who asks for it. */
export const loadRuntime = () => import("./runtime-parts.ts");
export type {
  Deliveries,
  EventLog,
  Found,
  HarborHistory,
  HarborRuntime,
  JournalBatch,
  JournalRow,
  Scheduler,
  Settled,
  Snapshot,
  Snapshots,
} from "./runtime-parts.ts";

/** The generated documents; loaded only by who asks for them. */
export const loadDocuments = () => import("./documents/documents.ts");

/** What runs instances on a computer for a service elsewhere; loaded only by who asks for it. */
export const loadAgent = () => import("./machines/agent/agent.ts");

/** What answers echoes on a port of its own; loaded only by who asks for it. */
export const loadEchoStation = () => import("./echo/station.ts");

/** What looks at all that a service stands on; loaded only by who asks for it. */
export const loadSelfCheck = () => import("./self-check/self-check.ts");
export type { Finding } from "./self-check/finding.ts";

/** What tries a data folder with this version; loaded only by who asks for it. */
export const loadUpgradeCheck = () => import("./self-check/upgrade-check.ts");
export type { UpgradeCheck } from "./self-check/upgrade-check.ts";
