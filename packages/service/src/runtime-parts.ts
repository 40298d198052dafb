export { rulesOf } from "./config/rules.ts";
export { harborClock, type TimeSources } from "./harbor/clock.ts";
export type { Outlets, Settled } from "./harbor/outbox.ts";
export { recoverHarbor } from "./harbor/recover.ts";
export { HarborRuntime, type RuntimeParts } from "./harbor/runtime.ts";
export type { Scheduler } from "./harbor/scheduler.ts";
export type { Journal, JournalBatch, JournalRow, Snapshot } from "./journal/journal.ts";
