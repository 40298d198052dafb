import {
  chmodSync,
  closeSync,
  copyFileSync,
  existsSync,
  fsyncSync,
  openSync,
  renameSync,
  rmSync,
  statSync,
} from "node:fs";
import { join } from "node:path";
import { History, OLDEST_SNAPSHOT_VERSION, readEvent, SNAPSHOT_VERSION } from "@yellow-harbor/core";
import Database from "better-sqlite3";
import { ChainReader, NOTHING_YET, sumOf } from "../journal/chain.ts";
import { DataFolderError, HeadMark, lockFolder, unusable } from "../journal/data-folder.ts";
import type { JournalRow } from "../journal/event-log.ts";
import { DATABASE_FILE } from "../journal/files.ts";
import { schemaOf } from "../journal/open-file.ts";

/** What a copy holds. */
export interface CopyContents {
  /** Whether it has the harbor's secret: without it all tokens end with a restore. */
  readonly hasSecret: boolean;
  readonly events: number;
  readonly first: { readonly seq: number; readonly atMs: number } | undefined;
  readonly last: { readonly seq: number; readonly atMs: number } | undefined;
  readonly players: number;
  readonly rooms: number;
  readonly instances: number;
}

/**
 * Writes a consistent copy of a database, also while a service writes to it. The file must not be there yet. Without the
 * secret it is worth nothing to whoever wants to be somebody: all tokens are signed with that.
 */
export function copyDatabase(file: string, to: string, { withSecret }: { readonly withSecret: boolean }): void {
  if (existsSync(to)) throw new Error(`${to} is there already`);
  const sqlite = new Database(file, { readonly: true, fileMustExist: true });
  try {
    // What is personal is in it, so it is for its owner alone from the first byte on. SQLite takes an empty file.
    closeSync(openSync(to, "wx", 0o600));
    sqlite.prepare("VACUUM INTO ?").run(to);
    if (!withSecret) removeSecrets(to);
  } catch (error) {
    rmSync(to, { force: true });
    throw error;
  } finally {
    sqlite.close();
  }
}

function removeSecrets(file: string): void {
  const sqlite = new Database(file);
  try {
    sqlite.pragma("journal_mode = DELETE");
    // What is removed is written over.
    sqlite.pragma("secure_delete = ON");
    sqlite.exec("DELETE FROM facts WHERE name = 'secret'; DELETE FROM operator_sessions;");
  } finally {
    sqlite.close();
  }
}

/**
 * Looks through a copy: whether SQLite finds it whole, whether its events follow each other, and whether they come to a
 * state in which nothing is that must never be. Throws {@link DataFolderError} when not.
 */
export function inspectCopy(file: string): CopyContents {
  if (!existsSync(file)) throw new DataFolderError("data-unusable", `There is no file ${file}.`);
  let sqlite: Database.Database | undefined;
  try {
    sqlite = new Database(file, { readonly: true, fileMustExist: true });
    const whole = sqlite.pragma("integrity_check(1)", { simple: true });
    if (whole !== "ok") throw new Error(String(whole));
    schemaOf(sqlite, file);
    return contentsOf(sqlite, file);
  } catch (error) {
    throw error instanceof DataFolderError ? error : unusable(file, error);
  } finally {
    sqlite?.close();
  }
}

/** Puts a copy where a service can start from it. Nothing is overwritten: a folder that has data already is refused. */
export function restoreCopy(file: string, folder: string): CopyContents {
  const contents = inspectCopy(file);
  const lock = lockFolder(folder);
  try {
    const target = join(folder, DATABASE_FILE);
    if (statSync(target, { throwIfNoEntry: false })?.size) {
      const detail = `${target} is there already and is not overwritten; move it away first, or restore to another folder with --data.`;
      throw new DataFolderError("data-unusable", detail);
    }
    const part = `${target}.part`;
    rmSync(part, { force: true });
    closeSync(openSync(part, "w", 0o600));
    copyFileSync(file, part);
    chmodSync(part, 0o600);
    keepOnDisk(part);
    new HeadMark(folder).forget();
    renameSync(part, target);
    keepOnDisk(folder);
    return contents;
  } finally {
    lock.close();
  }
}

/** Resolves only once the system has written a file, or the names in a folder, to the disk. */
export function keepOnDisk(path: string): void {
  const handle = openSync(path, "r");
  fsyncSync(handle);
  closeSync(handle);
}

type Row = JournalRow & { readonly chain: Buffer | null };

function contentsOf(sqlite: Database.Database, file: string): CopyContents {
  const { events, low, high } = sqlite
    .prepare("SELECT count(*) AS events, min(seq) AS low, max(seq) AS high FROM journal")
    .get() as { events: number; low: number | null; high: number | null };
  const damaged = (what: string) => new DataFolderError("data-unusable", `${file} cannot be relied on: ${what}.`);
  if (low !== null && high !== null && high - low + 1 !== events) throw damaged("events are missing in its journal");
  const snapshot = sqlite
    .prepare("SELECT seq, body, sum FROM snapshots WHERE version BETWEEN ? AND ? ORDER BY seq DESC LIMIT 1")
    .get(OLDEST_SNAPSHOT_VERSION, SNAPSHOT_VERSION) as { seq: number; body: string; sum: Buffer | null } | undefined;
  if (snapshot?.sum && !snapshot.sum.equals(sumOf(snapshot.body)))
    throw damaged(`its snapshot of event ${snapshot.seq} is not what was written`);
  const from = (snapshot?.seq ?? 0) + 1;
  if (low !== null && low > from)
    throw damaged(`its journal begins at event ${low}, and no snapshot stands for what was before`);
  const past = History.from(snapshot?.body);
  if (past === undefined) throw damaged("its snapshot cannot be read");
  const reader = new ChainReader(low ?? 1, low === 1 ? NOTHING_YET : undefined);
  const rows = sqlite.prepare("SELECT seq, at_ms AS atMs, kind, version, body, chain FROM journal ORDER BY seq");
  for (const row of rows.iterate() as IterableIterator<Row>) {
    const wrong = reader.take(row, row.chain) ?? (row.seq === high ? reader.end() : undefined);
    if (wrong !== undefined) throw damaged(wrong);
    if (row.seq >= from) past.replay(readEvent(row), row.atMs);
  }
  const [fault] = past.faults();
  if (fault !== undefined) throw damaged(fault);
  const momentOf = sqlite.prepare("SELECT seq, at_ms AS atMs FROM journal WHERE seq = ?");
  const at = (seq: number | null) => momentOf.get(seq) as { seq: number; atMs: number } | undefined;
  const hasSecret = sqlite.prepare("SELECT 1 FROM facts WHERE name = 'secret'").get() !== undefined;
  return { hasSecret, events, first: at(low), last: at(high), ...past.counts };
}
