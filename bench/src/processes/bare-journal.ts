import { join } from "node:path";
import type { JournalRow } from "@yellow-harbor/service";
import Database from "better-sqlite3";

/** What a journal's rows cost on bare better-sqlite3: prepared inserts, a transaction for each batch, WAL, FULL. */
export function openBareJournal(folder: string): {
  readonly write: (rows: readonly JournalRow[]) => void;
  readonly close: () => void;
} {
  const sqlite = new Database(join(folder, "plain.sqlite"));
  sqlite.pragma("journal_mode = WAL");
  sqlite.pragma("synchronous = FULL");
  sqlite.exec(
    "CREATE TABLE journal (seq INTEGER PRIMARY KEY, at_ms INTEGER NOT NULL, kind TEXT NOT NULL, version INTEGER NOT NULL, body TEXT NOT NULL)",
  );
  const insert = sqlite.prepare("INSERT INTO journal (seq, at_ms, kind, version, body) VALUES (?, ?, ?, ?, ?)");
  const write = sqlite.transaction((rows: readonly JournalRow[]) => {
    for (const { seq, atMs, kind, version, body } of rows) insert.run(seq, atMs, kind, version, body);
  });
  return { write, close: () => sqlite.close() };
}
