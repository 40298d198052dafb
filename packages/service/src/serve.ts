import { isAbsolute, resolve } from "node:path";
import { JournalOpenError, openSqliteJournal } from "./journal/sqlite-journal.ts";
import { operatorTokenOf } from "./keys/operator-token.ts";
import { type RunningService, type ServeOptions, StartError } from "./start.ts";

/** Starts the service. Throws {@link StartError} when the data folder or the port cannot be had. */
export async function serve(options: ServeOptions): Promise<RunningService> {
  const { config, folder } = options;
  const dataFolder = isAbsolute(config.data) ? config.data : resolve(folder, config.data);
  const opening = openJournal(dataFolder);
  // Awaited below; a failure meanwhile must not count as unhandled.
  opening.catch(() => undefined);
  // The journal's thread opens the file while this one loads what it will need.
  const { assemble } = await import("./assemble.ts");
  return assemble(options, dataFolder, opening);
}

async function openJournal(dataFolder: string) {
  try {
    return await openSqliteJournal(dataFolder);
  } catch (error) {
    if (error instanceof JournalOpenError) throw new StartError(error.code, error.message);
    throw error;
  }
}

/** The operator's token of a data folder. Throws {@link StartError} when no service has run there yet. */
export async function readOperatorToken(folder: string): Promise<string> {
  const { readSecret } = await import("./journal/read-secret.ts");
  const secret = readSecret(folder);
  if (secret === undefined)
    throw new StartError("data-unusable", `No service has run in ${folder} yet; start it once with yh serve.`);
  return operatorTokenOf(secret);
}
