import { randomBytes } from "node:crypto";
import Database from "better-sqlite3";
import { eq } from "drizzle-orm";
import type { BetterSQLite3Database } from "drizzle-orm/better-sqlite3";
import { migrate } from "drizzle-orm/better-sqlite3/migrator";
import { DataFolderError, ownFile } from "./data-folder.ts";
import { factTable, type schema } from "./schema.ts";
import { BEFORE_FIRST, knownSchema, MIGRATIONS } from "./schema-version.ts";

/** The file of a journal, made when it is not there. */
export function openFile(file: string): Database.Database {
  ownFile(file);
  const sqlite = new Database(file);
  sqlite.pragma("journal_mode = WAL");
  // A commit is only spoken of once it is on the disk, so every commit waits for it.
  sqlite.pragma("synchronous = FULL");
  sqlite.pragma("foreign_keys = ON");
  // What is removed is written over: it may have been somebody's name.
  sqlite.pragma("secure_delete = FAST");
  return sqlite;
}

/** Version of a file's schema beside the one that is known here. Throws when it is newer. */
export function schemaOf(sqlite: Database.Database, file: string): { applied: number; known: number } {
  const applied = sqlite.pragma("user_version", { simple: true }) as number;
  const known = knownSchema();
  if (applied > 0 && applied <= BEFORE_FIRST) {
    throw new DataFolderError(
      "data-unusable",
      `The file ${file} was written before version 0.2, whose files are the first that are read; move the folder away, or start with another by --data.`,
    );
  }
  if (applied > known) {
    throw new DataFolderError(
      "data-unusable",
      `The file ${file} was written by a newer version (schema ${applied}, this version knows ${known}); start that version, or restore a backup.`,
    );
  }
  return { applied, known };
}

/** `user_version` says which migrations were applied, so that an older service refuses a newer file. */
export function bringUpToDate(sqlite: Database.Database, db: BetterSQLite3Database<typeof schema>, file: string): void {
  const { applied, known } = schemaOf(sqlite, file);
  if (applied === known) return;
  migrate(db, { migrationsFolder: MIGRATIONS });
  sqlite.pragma(`user_version = ${known}`);
}

/** Counts this opening. A folder that can only be read is found out by that, and not with the first thing that happens. */
export function nextEpoch(db: BetterSQLite3Database<typeof schema>): number {
  return db.transaction(
    (tx) => {
      const last = tx.select().from(factTable).where(eq(factTable.name, "epoch")).get();
      const epoch = Number(last?.value.toString() ?? 0) + 1;
      const value = Buffer.from(String(epoch));
      tx.insert(factTable)
        .values({ name: "epoch", value })
        .onConflictDoUpdate({ target: factTable.name, set: { value } })
        .run();
      return epoch;
    },
    { behavior: "immediate" },
  );
}

/** The secret of the harbor, made when the file was. */
export function secretOf(db: BetterSQLite3Database<typeof schema>): Buffer {
  const known = db.select().from(factTable).where(eq(factTable.name, "secret")).get();
  if (known) return known.value;
  const value = randomBytes(32);
  db.insert(factTable).values({ name: "secret", value }).run();
  return value;
}
