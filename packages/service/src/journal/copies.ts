import {
  chmodSync,
  closeSync,
  copyFileSync,
  existsSync,
  fsyncSync,
  mkdirSync,
  openSync,
  renameSync,
  rmSync,
} from "node:fs";
import { join } from "node:path";
import { type HarborEvent, Past, SNAPSHOT_VERSION } from "@yellow-harbor/core";
import Database from "better-sqlite3";
import { DATABASE_FILE } from "./files.ts";
import { DataFolderError, lockFolder, schemaOf, unusable } from "./sqlite-store.ts";

/** What a copy holds. */
export interface CopyContents {
  readonly events: number;
  readonly first: { readonly seq: number; readonly atMs: number } | undefined;
  readonly last: { readonly seq: number; readonly atMs: number } | undefined;
  readonly players: number;
  readonly rooms: number;
  readonly instances: number;
}

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
    if (existsSync(target)) {
      const detail = `${target} is there already and is not overwritten; move it away first, or restore to another folder with --data.`;
      throw new DataFolderError("data-unusable", detail);
    }
    mkdirSync(folder, { recursive: true, mode: 0o700 });
    const part = `${target}.part`;
    rmSync(part, { force: true });
    copyFileSync(file, part);
    chmodSync(part, 0o600);
    keepOnDisk(part);
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

type Row = { readonly seq: number; readonly atMs: number; readonly body: string };

function contentsOf(sqlite: Database.Database, file: string): CopyContents {
  const { events, low, high } = sqlite
    .prepare("SELECT count(*) AS events, min(seq) AS low, max(seq) AS high FROM journal")
    .get() as { events: number; low: number | null; high: number | null };
  const damaged = (what: string) => new DataFolderError("data-unusable", `${file} cannot be relied on: ${what}.`);
  if (low !== null && high !== null && high - low + 1 !== events) throw damaged("events are missing in its journal");
  const snapshot = sqlite
    .prepare("SELECT seq, body FROM snapshots WHERE version = ? ORDER BY seq DESC LIMIT 1")
    .get(SNAPSHOT_VERSION) as { seq: number; body: string } | undefined;
  const from = (snapshot?.seq ?? 0) + 1;
  if (low !== null && low > from)
    throw damaged(`its journal begins at event ${low}, and no snapshot stands for what was before`);
  const past = Past.from(snapshot?.body);
  if (past === undefined) throw damaged("its snapshot cannot be read");
  const rows = sqlite.prepare("SELECT seq, at_ms AS atMs, body FROM journal WHERE seq >= ? ORDER BY seq");
  for (const { body, atMs } of rows.iterate(from) as IterableIterator<Row>)
    past.replay(JSON.parse(body) as HarborEvent, atMs);
  const [fault] = past.faults();
  if (fault !== undefined) throw damaged(fault);
  const momentOf = sqlite.prepare("SELECT seq, at_ms AS atMs FROM journal WHERE seq = ?");
  const at = (seq: number | null) => momentOf.get(seq) as { seq: number; atMs: number } | undefined;
  return { events, first: at(low), last: at(high), ...past.counts };
}
