import { chmodSync, existsSync } from "node:fs";
import Database from "better-sqlite3";

/** Writes a consistent copy of a database, also while a service writes to it. The file must not be there yet. */
export function copyDatabase(file: string, to: string): void {
  if (existsSync(to)) throw new Error(`${to} is there already`);
  const sqlite = new Database(file, { readonly: true, fileMustExist: true });
  try {
    sqlite.prepare("VACUUM INTO ?").run(to);
    // It holds the harbor's secret.
    chmodSync(to, 0o600);
  } finally {
    sqlite.close();
  }
}
