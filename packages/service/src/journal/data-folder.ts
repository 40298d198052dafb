import {
  chmodSync,
  closeSync,
  existsSync,
  mkdirSync,
  openSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeSync,
} from "node:fs";
import { join } from "node:path";
import Database from "better-sqlite3";
import { DATABASE_FILE, HEAD_FILE, LOCK_FILE } from "./files.ts";

/** A data folder that cannot be used, in words for the one who started the service. */
export class DataFolderError extends Error {
  readonly code: "data-locked" | "data-unusable";
  constructor(code: "data-locked" | "data-unusable", message: string) {
    super(message);
    this.code = code;
  }
}

export function unusable(path: string, error: unknown): DataFolderError {
  const { code, message } = error as { code?: string; message: string };
  return new DataFolderError(
    "data-unusable",
    `${path} cannot be used (${code ?? "error"}: ${message}); nothing was changed in it.`,
  );
}

const inUse = (folder: string) =>
  new DataFolderError(
    "data-locked",
    `The data folder ${folder} is in use by another process; stop that one, or give this one a folder of its own with --data.`,
  );

const BUSY_MS = 200;

/** Holds an exclusive lock for as long as the process lives: the system lets go of it however the process ends. */
export function lockFolder(folder: string): Database.Database {
  try {
    closeToOthers(folder);
    const lock = new Database(join(folder, LOCK_FILE), { timeout: BUSY_MS });
    try {
      lock.exec("BEGIN EXCLUSIVE");
      refuseOpenDatabase(folder);
    } catch (error) {
      lock.close();
      throw error;
    }
    return lock;
  } catch (error) {
    if (error instanceof DataFolderError) throw error;
    if (isBusy(error)) throw inUse(folder);
    throw unusable(folder, error);
  }
}

const isBusy = (error: unknown) => String((error as { code?: unknown }).code).startsWith("SQLITE_BUSY");

/**
 * The lock is a file of its own, which somebody may have removed beneath a running service. The database itself cannot
 * be: while another process has it open, nobody gets it for himself alone. Whoever only reads is waited for.
 */
function refuseOpenDatabase(folder: string): void {
  const file = join(folder, DATABASE_FILE);
  if (!existsSync(file)) return;
  const sqlite = new Database(file, { timeout: 2_000 });
  try {
    sqlite.pragma("locking_mode = EXCLUSIVE");
    // The lock is taken with the first thing that is read. A file that is no database is for those to tell who open it.
    sqlite.prepare("SELECT count(*) FROM sqlite_master").get();
  } catch (error) {
    if (isBusy(error)) throw inUse(folder);
  } finally {
    sqlite.close();
  }
}

/** What is kept holds the harbor's secret: the folder and its files are for their owner alone, also those from before. */
function closeToOthers(folder: string): void {
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  const { uid, mode } = statSync(folder);
  // A folder that many write to, such as that for temporary files, is not ours to close.
  const isShared = (mode & 0o1000) !== 0;
  if (uid === process.getuid?.() && !isShared) chmodSync(folder, 0o700);
  for (const name of readdirSync(folder)) {
    if (/^(harbor|lock)\.sqlite/.test(name)) chmodSync(join(folder, name), 0o600);
    // A backup that was being made when the service was killed.
    if (/^backup-[0-9a-f]+\.sqlite/.test(name)) rmSync(join(folder, name), { force: true });
  }
  ownFile(join(folder, LOCK_FILE));
}

/** Makes a file that is for its owner alone, unless it is there. SQLite gives its other files the mode of the database. */
export function ownFile(file: string): void {
  closeSync(openSync(file, "a", 0o600));
}

/**
 * Beside the database stands how far it was written. A database that ends before that has lost its tail, as when its
 * write-ahead log was removed, and SQLite by itself would begin from there without a word.
 */
export class HeadMark {
  readonly #file: string;
  #handle: number | undefined;

  constructor(folder: string) {
    this.#file = join(folder, HEAD_FILE);
  }

  /** Throws when the journal is not as far as it was. */
  check(lastSeq: number, chain: Buffer): void {
    if (!existsSync(this.#file)) return;
    const [number, sum] = readFileSync(this.#file, "utf8").trim().split(" ");
    const seq = Number(number);
    const remedy = `put back what was removed, restore a backup, or remove ${this.#file} to go on with what is there`;
    if (seq > lastSeq) {
      const lost = lastSeq === 0 ? "is empty" : `ends at event ${lastSeq}`;
      const detail = `The journal ${lost}, and event ${seq} had been written: its end is lost, as when harbor.sqlite-wal was removed. To go on, ${remedy}.`;
      throw new DataFolderError("data-unusable", detail);
    }
    if (seq === lastSeq && sum !== chain.toString("hex")) {
      const detail = `Event ${seq} is not the one that had been written: this is the journal of another folder, or it was changed. To go on, ${remedy}.`;
      throw new DataFolderError("data-unusable", detail);
    }
  }

  /** Notes what has just become durable. It never runs ahead of the database. */
  note(lastSeq: number, chain: Buffer): void {
    this.#handle ??= openSync(this.#file, "w", 0o600);
    writeSync(this.#handle, `${String(lastSeq).padStart(16, "0")} ${chain.toString("hex")}\n`, 0);
  }

  close(): void {
    if (this.#handle !== undefined) closeSync(this.#handle);
    this.#handle = undefined;
  }

  /** For a folder whose contents are about to be others, by intent. */
  forget(): void {
    rmSync(this.#file, { force: true });
  }
}
