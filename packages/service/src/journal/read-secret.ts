import { existsSync } from "node:fs";
import { join } from "node:path";
import Database from "better-sqlite3";
import { DATABASE_FILE } from "./files.ts";

/** The harbor's secret of a data folder, read beside a running service, or undefined when there is none yet. */
export function readSecret(folder: string): Uint8Array | undefined {
  const file = join(folder, DATABASE_FILE);
  if (!existsSync(file)) return undefined;
  const sqlite = new Database(file, { readonly: true });
  try {
    const row = sqlite.prepare("SELECT value FROM facts WHERE name = 'secret'").get() as { value: Buffer } | undefined;
    return row?.value;
  } finally {
    sqlite.close();
  }
}
