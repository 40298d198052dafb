import { randomBytes } from "node:crypto";
import { existsSync, mkdirSync } from "node:fs";
import { join } from "node:path";
import type { InstanceView } from "@yellow-harbor/protocol";
import Database from "better-sqlite3";
import { and, asc, desc, eq, inArray, lt, lte, or } from "drizzle-orm";
import { type BetterSQLite3Database, drizzle } from "drizzle-orm/better-sqlite3";
import { migrate } from "drizzle-orm/better-sqlite3/migrator";
import { readMigrationFiles } from "drizzle-orm/migrator";
import { PACKAGE_FOLDER } from "../package-folder.ts";
import { DATABASE_FILE, LOCK_FILE } from "./files.ts";
import type { InstanceRecordQuery, JournalBatch, JournalRow, Snapshot } from "./journal.ts";
import { factTable, instanceTable, journalTable, schema, snapshotTable } from "./schema.ts";

const MIGRATIONS = join(PACKAGE_FOLDER, "migrations");
const ROWS_AT_ONCE = 25;

const insertInto = (rows: number) => {
  const places = Array(rows).fill("(?, ?, ?, ?)").join(", ");
  return `INSERT INTO journal (seq, at_ms, kind, body) VALUES ${places}`;
};

const PUT_INSTANCE = `INSERT INTO instances (id, ordered_at_ms, pool, state, view) VALUES (?, ?, ?, ?, ?)
  ON CONFLICT (id) DO UPDATE SET ordered_at_ms = excluded.ordered_at_ms, pool = excluded.pool, state = excluded.state, view = excluded.view`;
const SELECT_ROWS = "SELECT seq, at_ms AS atMs, kind, body FROM journal WHERE seq >= ? ORDER BY seq LIMIT ?";

/** A data folder that cannot be used, in words for the one who started the service. */
export class DataFolderError extends Error {
  readonly code: "data-locked" | "data-unusable";
  constructor(code: "data-locked" | "data-unusable", message: string) {
    super(message);
    this.code = code;
  }
}

/** The journal and its records in one SQLite file. Synchronous; lives in a thread of its own. */
export class SqliteStore {
  readonly #lock: Database.Database;
  readonly #sqlite: Database.Database;
  readonly #db: BetterSQLite3Database<typeof schema>;
  readonly #insertRow: Database.Statement;
  readonly #insertRows: Database.Statement;
  readonly #selectRows: Database.Statement;
  readonly #putInstance: Database.Statement;
  #lastSeq: number;
  /** Time of the event that was the last one when the file was opened. */
  readonly lastAtMs: number;
  readonly secret: Buffer;

  constructor(folder: string) {
    this.#lock = lockFolder(folder);
    const file = join(folder, DATABASE_FILE);
    try {
      this.#sqlite = openFile(file);
      this.#db = drizzle(this.#sqlite, { schema });
      bringUpToDate(this.#sqlite, this.#db, file);
      const { seq, atMs } = journalTable;
      const last = this.#db.select({ seq, atMs }).from(journalTable).orderBy(desc(seq)).limit(1).get();
      this.#lastSeq = last?.seq ?? 0;
      this.lastAtMs = last?.atMs ?? 0;
      this.secret = secretOf(this.#db);
      // The hot path: prepared statements, since building the same insert for each row costs several times its run.
      this.#insertRow = this.#sqlite.prepare(insertInto(1));
      this.#insertRows = this.#sqlite.prepare(insertInto(ROWS_AT_ONCE));
      this.#selectRows = this.#sqlite.prepare(SELECT_ROWS);
      this.#putInstance = this.#sqlite.prepare(PUT_INSTANCE);
    } catch (error) {
      this.#lock.close();
      throw error instanceof DataFolderError ? error : unusable(file, error);
    }
  }

  get lastSeq(): number {
    return this.#lastSeq;
  }

  append({ rows, instances }: JournalBatch, expectedSeq: number): void {
    if (expectedSeq !== this.#lastSeq) {
      throw new Error(`the journal is at event ${this.#lastSeq}, not at ${expectedSeq}; somebody else wrote to it`);
    }
    this.#sqlite.transaction(() => {
      this.#insert(rows);
      for (const view of instances) this.#record(view);
    })();
    this.#lastSeq = rows.at(-1)?.seq ?? this.#lastSeq;
  }

  read(fromSeq: number, limit: number): JournalRow[] {
    return this.#selectRows.all(fromSeq, limit) as JournalRow[];
  }

  newestSnapshot(): Snapshot | undefined {
    const columns = { seq: snapshotTable.seq, version: snapshotTable.version, body: snapshotTable.body };
    return this.#db.select(columns).from(snapshotTable).orderBy(desc(snapshotTable.seq)).limit(1).get();
  }

  /** Writes a snapshot. Of older ones so many stay that any moment of the past is at most two `spacing`s from one. */
  writeSnapshot({ seq, version, body }: Snapshot, spacing: number): void {
    this.#db.transaction((tx) => {
      const snapshot = { seq, version, body, atMs: Date.now() };
      tx.insert(snapshotTable).values(snapshot).onConflictDoNothing().run();
      const seqs = tx.select({ seq: snapshotTable.seq }).from(snapshotTable).orderBy(asc(snapshotTable.seq)).all();
      for (const [n, { seq: middle }] of seqs.entries()) {
        const [before, after] = [seqs[n - 1], seqs[n + 1]];
        if (before === undefined || after === undefined || after.seq - before.seq > spacing) continue;
        tx.delete(snapshotTable).where(eq(snapshotTable.seq, middle)).run();
        // The next one is held against what is left.
        seqs[n] = before;
      }
    });
  }

  /**
   * Removes at most `limit` of the oldest events, as long as `keep` younger ones and a snapshot that stands for the
   * removed ones stay. Returns how many were removed.
   */
  trim(keep: number, version: number, limit: number): number {
    const { seq } = snapshotTable;
    const fits = and(lte(seq, this.#lastSeq - keep), eq(snapshotTable.version, version));
    const base = this.#db.select({ seq }).from(snapshotTable).where(fits).orderBy(desc(seq)).limit(1).get()?.seq;
    if (base === undefined) return 0;
    return this.#db.transaction((tx) => {
      tx.delete(snapshotTable).where(lt(seq, base)).run();
      const oldest = tx.select({ seq: journalTable.seq }).from(journalTable).orderBy(asc(journalTable.seq)).limit(1);
      const until = Math.min(base + 1, (oldest.get()?.seq ?? base + 1) + limit);
      const removed = tx.delete(journalTable).where(lt(journalTable.seq, until)).run().changes;
      // What is known of instances goes when nothing is known of their time any more.
      if (until > base) this.#forgetInstances(tx, until);
      return removed;
    });
  }

  instanceRecords({ limit, before, state }: InstanceRecordQuery): InstanceView[] {
    const { id, orderedAtMs } = instanceTable;
    const older =
      before && or(lt(orderedAtMs, before.orderedAtMs), and(eq(orderedAtMs, before.orderedAtMs), lt(id, before.id)));
    const rows = this.#db
      .select({ view: instanceTable.view })
      .from(instanceTable)
      .where(and(older, state === undefined ? undefined : eq(instanceTable.state, state)))
      .orderBy(desc(orderedAtMs), desc(id))
      .limit(limit)
      .all();
    return rows.map((row) => instanceOf(row.view));
  }

  instanceRecord(id: string): InstanceView | undefined {
    const row = this.#db.select({ view: instanceTable.view }).from(instanceTable).where(eq(instanceTable.id, id)).get();
    return row && instanceOf(row.view);
  }

  close(): void {
    this.#sqlite.close();
    this.#lock.close();
  }

  #forgetInstances(tx: Pick<BetterSQLite3Database<typeof schema>, "select" | "delete">, firstSeq: number): void {
    const first = tx.select({ atMs: journalTable.atMs }).from(journalTable).where(eq(journalTable.seq, firstSeq)).get();
    const isOver = inArray(instanceTable.state, ["ended", "failed"]);
    tx.delete(instanceTable)
      .where(and(isOver, lt(instanceTable.orderedAtMs, first?.atMs ?? 0)))
      .run();
  }

  /** Many rows a statement where there are many: each run of a statement has a price of its own. */
  #insert(rows: readonly JournalRow[]): void {
    let done = 0;
    for (; done + ROWS_AT_ONCE <= rows.length; done += ROWS_AT_ONCE) {
      const values: (number | string)[] = [];
      for (let n = done; n < done + ROWS_AT_ONCE; n++) {
        const { seq, atMs, kind, body } = rows[n] as JournalRow;
        values.push(seq, atMs, kind, body);
      }
      this.#insertRows.run(values);
    }
    for (const { seq, atMs, kind, body } of rows.slice(done)) this.#insertRow.run(seq, atMs, kind, body);
  }

  #record(view: InstanceView): void {
    const { id, orderedAtMs, pool, state } = view;
    this.#putInstance.run(id, orderedAtMs, pool, state, JSON.stringify(view));
  }
}

/** Holds an exclusive lock for as long as the process lives: the system lets go of it however the process ends. */
export function lockFolder(folder: string): Database.Database {
  try {
    mkdirSync(folder, { recursive: true, mode: 0o700 });
    const lock = new Database(join(folder, LOCK_FILE), { timeout: 200 });
    try {
      lock.exec("BEGIN EXCLUSIVE");
    } catch (error) {
      lock.close();
      throw error;
    }
    return lock;
  } catch (error) {
    if ((error as { code?: string }).code === "SQLITE_BUSY") {
      throw new DataFolderError(
        "data-locked",
        `The data folder ${folder} is in use by another process; stop that one, or give this one a folder of its own with --data.`,
      );
    }
    throw unusable(folder, error);
  }
}

function openFile(file: string): Database.Database {
  const sqlite = new Database(file);
  sqlite.pragma("journal_mode = WAL");
  // A commit is only spoken of once it is on the disk, so every commit waits for it.
  sqlite.pragma("synchronous = FULL");
  sqlite.pragma("foreign_keys = ON");
  return sqlite;
}

/** Version of a file's schema beside the one that is known here. Throws when it is newer. */
export function schemaOf(sqlite: Database.Database, file: string): { applied: number; known: number } {
  const applied = sqlite.pragma("user_version", { simple: true }) as number;
  if (!existsSync(MIGRATIONS)) throw new Error(`the migrations are missing: ${MIGRATIONS}`);
  const known = readMigrationFiles({ migrationsFolder: MIGRATIONS }).length;
  if (applied > known) {
    throw new DataFolderError(
      "data-unusable",
      `The file ${file} was written by a newer version (schema ${applied}, this version knows ${known}); start that version, or restore a backup.`,
    );
  }
  return { applied, known };
}

/** A record as it is read now. Those from when an instance had one room and no version are brought into today's form. */
function instanceOf(text: string): InstanceView {
  const view = JSON.parse(text) as InstanceView & { room?: string; run?: string };
  if (view.rooms !== undefined) return view;
  const { room, run, ...rest } = view;
  const rooms = room === undefined ? [] : [{ room, ...(run !== undefined && { run }) }];
  return { ...rest, version: "1", machine: "here", rooms };
}

/** `user_version` holds the number of migrations applied, so that an older service refuses a newer file. */
function bringUpToDate(sqlite: Database.Database, db: BetterSQLite3Database<typeof schema>, file: string): void {
  const { applied, known } = schemaOf(sqlite, file);
  if (applied === known) return;
  migrate(db, { migrationsFolder: MIGRATIONS });
  sqlite.pragma(`user_version = ${known}`);
}

function secretOf(db: BetterSQLite3Database<typeof schema>): Buffer {
  const known = db.select().from(factTable).where(eq(factTable.name, "secret")).get();
  if (known) return known.value;
  const value = randomBytes(32);
  db.insert(factTable).values({ name: "secret", value }).run();
  return value;
}

export function unusable(path: string, error: unknown): DataFolderError {
  const { code, message } = error as { code?: string; message: string };
  return new DataFolderError(
    "data-unusable",
    `${path} cannot be used (${code ?? "error"}: ${message}); nothing was changed in it.`,
  );
}
