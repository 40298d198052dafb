import { randomBytes } from "node:crypto";
import { join } from "node:path";
import type { InstanceView, PersonErased } from "@yellow-harbor/protocol";
import type Database from "better-sqlite3";
import { and, asc, desc, eq, inArray, lt, lte, or } from "drizzle-orm";
import { type BetterSQLite3Database, drizzle } from "drizzle-orm/better-sqlite3";
import { ChainReader, chainedPacked, NOTHING_YET, sumOf } from "./chain.ts";
import { DataFolderError, HeadMark, unusable } from "./data-folder.ts";
import type { JournalKeep, JournalRow } from "./event-log.ts";
import { DATABASE_FILE } from "./files.ts";
import type { InstanceRecordQuery } from "./harbor-history.ts";
import { bringUpToDate, nextEpoch, openFile, secretOf } from "./open-file.ts";
import { OperatorRecords } from "./operator-records.ts";
import { type PackedBatch, unpackBatch } from "./packing.ts";
import { erasePerson, findPerson } from "./person.ts";
import { instanceTable, journalTable, schema, snapshotTable } from "./schema.ts";
import type { Snapshot } from "./snapshots.ts";
import { WebhookRecords } from "./webhook-records.ts";
import { wipeFreePages } from "./wipe.ts";

const ROWS_AT_ONCE = 25;

const insertInto = (rows: number) => {
  const places = Array(rows).fill("(?, ?, ?, ?, ?)").join(", ");
  return `INSERT INTO journal (seq, at_ms, kind, version, body) VALUES ${places}`;
};

const PUT_INSTANCE = `INSERT INTO instances (id, launched_at_ms, pool, state, view) VALUES (?, ?, ?, ?, ?)
  ON CONFLICT (id) DO UPDATE SET launched_at_ms = excluded.launched_at_ms, pool = excluded.pool, state = excluded.state, view = excluded.view`;
const INSERT_LAST = "INSERT INTO journal (seq, at_ms, kind, version, body, chain) VALUES (?, ?, ?, ?, ?, ?)";
const SET_CHAIN = "UPDATE journal SET chain = ? WHERE seq = ?";
const SELECT_ROWS =
  "SELECT seq, at_ms AS atMs, kind, version, body, chain FROM journal WHERE seq >= ? ORDER BY seq LIMIT ?";

const SELECT_EPOCH = "SELECT value FROM facts WHERE name = 'epoch'";

type StoredRow = JournalRow & { readonly chain: Buffer | null };

/** Somebody else has the journal: nothing was written. */
export class Fenced extends Error {}

/** Where a batch is to be appended, and by whom. */
export interface Place {
  readonly epoch: number;
  readonly expectedSeq: number;
}

/**
 * The journal and its records in one SQLite file. Synchronous; lives in a thread of its own. Each opening has an epoch that is
 * higher than that of the one before, which can append nothing any more.
 */
export class SqliteStore {
  readonly #sqlite: Database.Database;
  readonly #db: BetterSQLite3Database<typeof schema>;
  readonly #head: HeadMark;
  readonly #insertRow: Database.Statement;
  readonly #insertLast: Database.Statement;
  readonly #insertRows: Database.Statement;
  readonly #setChain: Database.Statement;
  readonly #selectRows: Database.Statement;
  readonly #putInstance: Database.Statement;
  readonly #selectEpoch: Database.Statement;
  #lastSeq: number;
  #chain: Buffer;
  /** Goes along with what is read at the start. */
  #reader: ChainReader | undefined;
  /** Time of the event that was the last one when the file was opened. */
  readonly lastAtMs: number;
  readonly secret: Buffer;
  readonly epoch: number;
  readonly operators: OperatorRecords;
  readonly webhooks: WebhookRecords;

  constructor(folder: string) {
    const file = join(folder, DATABASE_FILE);
    try {
      this.#sqlite = openFile(file);
      this.#db = drizzle(this.#sqlite, { schema });
      bringUpToDate(this.#sqlite, this.#db, file);
      this.epoch = nextEpoch(this.#db);
      const { seq, atMs, chain } = journalTable;
      const last = this.#db.select({ seq, atMs, chain }).from(journalTable).orderBy(desc(seq)).limit(1).get();
      this.#lastSeq = last?.seq ?? 0;
      this.#chain = last?.chain ?? NOTHING_YET;
      this.lastAtMs = last?.atMs ?? 0;
      this.#head = new HeadMark(folder);
      this.#head.check(this.#lastSeq, this.#chain);
      this.secret = secretOf(this.#db);
      this.operators = new OperatorRecords(this.#db);
      this.webhooks = new WebhookRecords(this.#db);
      // The hot path: prepared statements, since building the same insert for each row costs several times its run.
      this.#insertRow = this.#sqlite.prepare(insertInto(1));
      this.#insertLast = this.#sqlite.prepare(INSERT_LAST);
      this.#insertRows = this.#sqlite.prepare(insertInto(ROWS_AT_ONCE));
      this.#setChain = this.#sqlite.prepare(SET_CHAIN);
      this.#selectRows = this.#sqlite.prepare(SELECT_ROWS);
      this.#putInstance = this.#sqlite.prepare(PUT_INSTANCE);
      this.#selectEpoch = this.#sqlite.prepare(SELECT_EPOCH).pluck();
    } catch (error) {
      throw error instanceof DataFolderError ? error : unusable(file, error);
    }
  }

  get lastSeq(): number {
    return this.#lastSeq;
  }

  append(batch: PackedBatch, { epoch, expectedSeq }: Place): void {
    if (expectedSeq !== this.#lastSeq) {
      throw new Fenced(`the journal is at event ${this.#lastSeq}, not at ${expectedSeq}; somebody else wrote to it`);
    }
    const { rows, instances, webhookEvents = [] } = unpackBatch(batch);
    const last = rows.at(-1);
    if (last === undefined) return this.#refuseFormer(epoch);
    const chain = chainedPacked(this.#chain, batch);
    const write = () => {
      // Within the transaction: whoever opens the journal from now on finds what is written here.
      this.#refuseFormer(epoch);
      this.#insert(rows, chain);
      for (const view of instances) this.#record(view);
      this.webhooks.add(webhookEvents);
    };
    this.#sqlite.transaction(write).immediate();
    this.#lastSeq = last.seq;
    this.#chain = chain;
    this.#head.note(this.#lastSeq, chain);
  }

  /** Events in their order. Whoever reads on from where it began reads what was written, or is told that it is not. */
  read(fromSeq: number, limit: number): JournalRow[] {
    const rows = this.#selectRows.all(fromSeq, limit) as StoredRow[];
    // What was trimmed away nobody can read; what is left begins where it begins.
    const first = rows[0]?.seq ?? fromSeq;
    if (this.#reader?.nextSeq !== first) this.#reader = new ChainReader(first, this.#chainBefore(first));
    for (const row of rows) {
      const wrong = this.#reader.take(row, row.chain) ?? (row.seq === this.#lastSeq ? this.#reader.end() : undefined);
      if (wrong !== undefined) throw new Error(`${wrong}; restore a backup`);
    }
    return rows;
  }

  newestSnapshot(): Snapshot | undefined {
    const { seq, version, body, sum } = snapshotTable;
    const newest = this.#db.select({ seq, version, body, sum }).from(snapshotTable).orderBy(desc(seq)).limit(1).get();
    if (newest === undefined) return undefined;
    const { sum: written, ...snapshot } = newest;
    if (written === null || written.equals(sumOf(snapshot.body))) return snapshot;
    throw new Error(`the snapshot of event ${snapshot.seq} is not what was written; restore a backup`);
  }

  /** Writes a snapshot. Of older ones so many stay that any moment of the past is at most two `spacing`s from one. */
  writeSnapshot({ seq, version, body }: Snapshot, spacing: number): void {
    this.#db.transaction((tx) => {
      const chain = this.#chainBefore(seq + 1) ?? null;
      const snapshot = { seq, version, body, atMs: Date.now(), chain, sum: sumOf(body) };
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
   * Removes at most `limit` of the oldest events, as long as a snapshot that stands for them stays, and as many younger
   * ones as are to be kept, or as the bytes allow. Returns how many were removed.
   */
  trim(keep: JournalKeep, version: number, limit: number): number {
    const { seq } = snapshotTable;
    const isTooLarge = this.#bytesUsed() > keep.bytes;
    const fits = and(lte(seq, this.#lastSeq - (isTooLarge ? 0 : keep.events)), eq(snapshotTable.version, version));
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

  /** Takes somebody out of all that is kept. The mark of the end is away meanwhile: it would not fit a half of it. */
  erasePerson(who: string): PersonErased {
    const person = findPerson(this.#sqlite, who);
    this.#head.close();
    this.#head.forget();
    const { events, chain } = this.#sqlite.transaction(() => erasePerson(this.#sqlite, person, tagOf()))();
    this.#chain = chain ?? this.#chain;
    this.#reader = undefined;
    this.#head.note(this.#lastSeq, this.#chain);
    // What stood there before is written over, in the file and in the log beside it.
    wipeFreePages(this.#sqlite);
    this.#sqlite.pragma("wal_checkpoint(TRUNCATE)");
    return { players: [...person.players], events };
  }

  /** Bytes of the file that hold something. */
  #bytesUsed(): number {
    const figure = (name: string) => this.#sqlite.pragma(name, { simple: true }) as number;
    return (figure("page_count") - figure("freelist_count")) * figure("page_size");
  }

  instanceRecords({ limit, before, state }: InstanceRecordQuery): InstanceView[] {
    const { id, launchedAtMs } = instanceTable;
    const older =
      before &&
      or(lt(launchedAtMs, before.launchedAtMs), and(eq(launchedAtMs, before.launchedAtMs), lt(id, before.id)));
    const rows = this.#db
      .select({ view: instanceTable.view })
      .from(instanceTable)
      .where(and(older, state === undefined ? undefined : eq(instanceTable.state, state)))
      .orderBy(desc(launchedAtMs), desc(id))
      .limit(limit)
      .all();
    return rows.map((row) => JSON.parse(row.view) as InstanceView);
  }

  instanceRecord(id: string): InstanceView | undefined {
    const row = this.#db.select({ view: instanceTable.view }).from(instanceTable).where(eq(instanceTable.id, id)).get();
    return row && (JSON.parse(row.view) as InstanceView);
  }

  close(): void {
    this.#head.close();
    this.#sqlite.close();
  }

  #forgetInstances(tx: Pick<BetterSQLite3Database<typeof schema>, "select" | "delete">, firstSeq: number): void {
    const first = tx.select({ atMs: journalTable.atMs }).from(journalTable).where(eq(journalTable.seq, firstSeq)).get();
    const isOver = inArray(instanceTable.state, ["ended", "failed"]);
    tx.delete(instanceTable)
      .where(and(isOver, lt(instanceTable.launchedAtMs, first?.atMs ?? 0)))
      .run();
  }

  #refuseFormer(epoch: number): void {
    const newest = Number(String(this.#selectEpoch.get()));
    if (newest !== epoch) throw new Fenced(`the journal was opened anew (epoch ${newest}, this one has ${epoch})`);
  }

  /** Sum of the journal before an event, when it is known. */
  #chainBefore(fromSeq: number): Buffer | undefined {
    if (fromSeq === 1) return NOTHING_YET;
    const { chain } = journalTable;
    const own = this.#db
      .select({ chain })
      .from(journalTable)
      .where(eq(journalTable.seq, fromSeq - 1))
      .get();
    if (own?.chain) return own.chain;
    const kept = { chain: snapshotTable.chain };
    const snapshot = this.#db
      .select(kept)
      .from(snapshotTable)
      .where(eq(snapshotTable.seq, fromSeq - 1))
      .get();
    return snapshot?.chain ?? undefined;
  }

  /** Many rows a statement where there are many: each run of a statement has a price of its own. */
  #insert(rows: readonly JournalRow[], chain: Buffer): void {
    const last = rows.at(-1) as JournalRow;
    let done = 0;
    for (; done + ROWS_AT_ONCE <= rows.length; done += ROWS_AT_ONCE) {
      const values: (number | string)[] = [];
      for (let n = done; n < done + ROWS_AT_ONCE; n++) {
        const { seq, atMs, kind, version, body } = rows[n] as JournalRow;
        values.push(seq, atMs, kind, version, body);
      }
      this.#insertRows.run(values);
    }
    if (done === rows.length) {
      this.#setChain.run(chain, last.seq);
      return;
    }
    for (const { seq, atMs, kind, version, body } of rows.slice(done, -1))
      this.#insertRow.run(seq, atMs, kind, version, body);
    this.#insertLast.run(last.seq, last.atMs, last.kind, last.version, last.body, chain);
  }

  #record(view: InstanceView): void {
    const { id, launchedAtMs, pool, state } = view;
    this.#putInstance.run(id, launchedAtMs, pool, state, JSON.stringify(view));
  }
}

const tagOf = () => randomBytes(6).toString("hex");
