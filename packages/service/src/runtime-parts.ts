export { rulesOf } from "./config/rules.ts";
export type { Journal, JournalBatch, JournalRow, Snapshot } from "./journal/journal.ts";
export { harborClock, type TimeSources } from "./runtime/clock.ts";
export type { Deliveries, Settled } from "./runtime/outbox.ts";
export { recoverHarbor } from "./runtime/recover.ts";
export { HarborRuntime, type RuntimeParts } from "./runtime/runtime.ts";
export type { Scheduler } from "./runtime/scheduler.ts";
