import { createHash } from "node:crypto";
import type { AuditCheck, AuditEntry, AuditPage, AuditQuery } from "@yellow-harbor/protocol";
import { and, asc, desc, eq, gte, lt } from "drizzle-orm";
import type { BetterSQLite3Database } from "drizzle-orm/better-sqlite3";
import type { NewAuditEntry, OperatorKeyRow, OperatorSessionRow } from "./operator-store.ts";
import {
  auditTable,
  factTable,
  operatorKeyTable,
  operatorSessionTable,
  type schema,
  webhookEventTable,
} from "./schema.ts";
import type { NewWebhookEvent } from "./webhook-store.ts";

type Database = BetterSQLite3Database<typeof schema>;

/** Fact with the sum of the entries that were removed at the old end, and of the newest one. */
const AUDIT_BASE = "audit-base";
const AUDIT_HEAD = "audit-head";
const NOTHING_YET = Buffer.alloc(32);

/** What is kept of operators: their keys, their sessions, and what they did. */
export class OperatorRecords {
  readonly #db: Database;

  constructor(db: Database) {
    this.#db = db;
  }

  keys(): OperatorKeyRow[] {
    return this.#db.select().from(operatorKeyTable).all();
  }

  putKey(row: OperatorKeyRow): void {
    const values = { ...row, hash: Buffer.from(row.hash) };
    const { id } = operatorKeyTable;
    this.#db.insert(operatorKeyTable).values(values).onConflictDoUpdate({ target: id, set: values }).run();
  }

  sessions(): OperatorSessionRow[] {
    return this.#db.select().from(operatorSessionTable).all();
  }

  putSession(row: OperatorSessionRow): void {
    const values = { ...row, hash: Buffer.from(row.hash) };
    const { id } = operatorSessionTable;
    this.#db.insert(operatorSessionTable).values(values).onConflictDoUpdate({ target: id, set: values }).run();
  }

  removeSession(id: string): void {
    this.#db.delete(operatorSessionTable).where(eq(operatorSessionTable.id, id)).run();
  }

  /** What is told of it goes with it: whole or not at all. */
  addAudit(entry: NewAuditEntry, told?: NewWebhookEvent): void {
    const { seq, chain } = auditTable;
    const text = JSON.stringify(entry);
    this.#db.transaction((tx) => {
      const last = tx.select({ seq, chain }).from(auditTable).orderBy(desc(seq)).limit(1).get();
      const sum = linkOf(last?.chain ?? this.#fact(AUDIT_BASE), text);
      const { atMs, action, actor } = entry;
      const row = { atMs, action, actor: actor.name, entry: text, chain: sum };
      const { lastInsertRowid } = tx.insert(auditTable).values(row).run();
      const head = headOf(Number(lastInsertRowid), sum);
      if (told) tx.insert(webhookEventTable).values(told).run();
      const kept = { name: AUDIT_HEAD, value: head };
      tx.insert(factTable).values(kept).onConflictDoUpdate({ target: factTable.name, set: kept }).run();
    });
  }

  auditPage({ limit, before, name, action }: AuditQuery): AuditPage {
    const { seq, entry } = auditTable;
    const fits = and(
      before === undefined ? undefined : lt(seq, before),
      name === undefined ? undefined : eq(auditTable.actor, name),
      action === undefined ? undefined : eq(auditTable.action, action),
    );
    const wanted = this.#db.select({ seq, entry }).from(auditTable).where(fits).orderBy(desc(seq));
    const rows = wanted.limit(limit + 1).all();
    const page = rows.slice(0, limit);
    const next = rows.length > limit ? page.at(-1)?.seq : undefined;
    const entries = page.map((row): AuditEntry => ({ seq: row.seq, ...(JSON.parse(row.entry) as NewAuditEntry) }));
    return { entries, ...(next !== undefined && { next }) };
  }

  checkAudit(): AuditCheck {
    let sum = this.#fact(AUDIT_BASE);
    let [count, firstSeq, lastSeq] = [0, 0, 0];
    let fault: string | undefined;
    for (const { seq, entry, chain } of this.#db.select().from(auditTable).orderBy(asc(auditTable.seq)).all()) {
      sum = linkOf(sum, entry);
      if (fault === undefined && !sum.equals(chain)) {
        fault = `entry ${seq} is not what was written, or one before it is missing`;
      }
      if (count === 0) firstSeq = seq;
      count += 1;
      lastSeq = seq;
    }
    const head = this.#db.select().from(factTable).where(eq(factTable.name, AUDIT_HEAD)).get()?.value;
    if (count > 0 || head !== undefined) {
      const isHead = head?.equals(headOf(lastSeq, sum)) ?? false;
      const isTrimmedAway = count === 0 && head?.subarray(8).equals(sum);
      if (!isHead && !isTrimmedAway) fault ??= `the newest entries are missing: the log ends with entry ${lastSeq}`;
    }
    return {
      entries: count,
      ...(count > 0 && { firstSeq, lastSeq }),
      head: sum.toString("hex"),
      ...(fault !== undefined && { fault }),
    };
  }

  trimAudit(untilMs: number): number {
    const { seq, atMs, chain } = auditTable;
    return this.#db.transaction((tx) => {
      // The clock may have been set back meanwhile: only what is old up to the first young entry goes.
      const young = tx.select({ seq }).from(auditTable).where(gte(atMs, untilMs)).orderBy(asc(seq)).limit(1).get();
      const fits = young === undefined ? undefined : lt(seq, young.seq);
      const last = tx.select({ chain }).from(auditTable).where(fits).orderBy(desc(seq)).limit(1).get();
      if (last === undefined) return 0;
      const kept = { name: AUDIT_BASE, value: last.chain };
      tx.insert(factTable).values(kept).onConflictDoUpdate({ target: factTable.name, set: kept }).run();
      return tx.delete(auditTable).where(fits).run().changes;
    });
  }

  #fact(name: string): Buffer {
    return this.#db.select().from(factTable).where(eq(factTable.name, name)).get()?.value ?? NOTHING_YET;
  }
}

const linkOf = (before: Buffer, entry: string): Buffer => createHash("sha256").update(before).update(entry).digest();

function headOf(seq: number, sum: Buffer): Buffer {
  const number = Buffer.alloc(8);
  number.writeBigUInt64BE(BigInt(seq));
  return Buffer.concat([number, sum]);
}
