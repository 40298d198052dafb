export { configJsonSchema } from "./config/json-schema.ts";
export { type ConfigFault, type LoadedConfig, loadConfig, parseConfig } from "./config/load.ts";
export { Config } from "./config/schema.ts";
export type { Journal, JournalBatch, JournalRow } from "./journal/journal.ts";
export { openSqliteJournal } from "./journal/sqlite-journal.ts";
export { readOperatorToken, serve } from "./serve.ts";
export { type RunningService, type ServeOptions, StartError } from "./start.ts";
export { SERVICE_VERSION } from "./version.ts";

/** The generated documents; loaded only by who asks for them. */
export const loadDocuments = () => import("./documents/documents.ts");
