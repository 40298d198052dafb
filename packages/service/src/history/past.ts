import { History, OLDEST_SNAPSHOT_VERSION, SNAPSHOT_VERSION } from "@yellow-harbor/core";
import type Database from "better-sqlite3";

/** The columns of a row of the journal. */
export const COLUMNS = "seq, at_ms AS atMs, kind, version, body";

/** The newest past that can be read and lies before an event. */
export function startBefore(sqlite: Database.Database, seq: number): { past: History; seq: number } | undefined {
  const snapshot = sqlite
    .prepare("SELECT seq, body FROM snapshots WHERE seq < ? AND version BETWEEN ? AND ? ORDER BY seq DESC LIMIT 1")
    .get(seq, OLDEST_SNAPSHOT_VERSION, SNAPSHOT_VERSION) as { seq: number; body: string } | undefined;
  const first = sqlite.prepare("SELECT min(seq) FROM journal").pluck().get() as number;
  // Without a snapshot only a journal that was never trimmed can be gone through.
  if (snapshot === undefined && first > 1) return undefined;
  const past = History.from(snapshot?.body);
  return past && { past, seq: snapshot?.seq ?? 0 };
}
