export { configJsonSchema } from "./config/json-schema.ts";
export { type ConfigFault, type LoadedConfig, loadConfig, parseConfig } from "./config/load.ts";
export { Config } from "./config/schema.ts";
export type { Journal, JournalBatch, JournalRow } from "./journal/journal.ts";
export { openSqliteJournal } from "./journal/sqlite-journal.ts";
export {
  operatorTokenOf,
  type RunningService,
  readOperatorToken,
  SERVICE_VERSION,
  type ServeOptions,
  StartError,
  serve,
} from "./serve.ts";
