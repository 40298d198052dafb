import { and, asc, count, desc, eq, gt, inArray, lte, min, notInArray } from "drizzle-orm";
import type { BetterSQLite3Database } from "drizzle-orm/better-sqlite3";
import { deadEventTable, type schema, webhookEventTable, webhookPlaceTable } from "./schema.ts";
import type {
  DeadEventRow,
  NewWebhookEvent,
  StoredWebhookEvent,
  WebhookPlace,
  WebhookProgress,
} from "./webhook-store.ts";

/** Dead events that are kept for each webhook; the oldest go first. */
const DEAD_MAX = 10_000;

type Database = Pick<BetterSQLite3Database<typeof schema>, "select" | "insert" | "update" | "delete">;

/** What is kept of webhooks, in the file of the journal. */
export class WebhookRecords {
  readonly #db: BetterSQLite3Database<typeof schema>;

  constructor(db: BetterSQLite3Database<typeof schema>) {
    this.#db = db;
  }

  /** What goes with a batch is added in its transaction. */
  add(events: readonly NewWebhookEvent[]): void {
    if (events.length > 0)
      this.#db
        .insert(webhookEventTable)
        .values([...events])
        .run();
  }

  open(names: readonly string[]): WebhookPlace[] {
    const { webhook } = webhookPlaceTable;
    return this.#db.transaction((tx) => {
      tx.delete(webhookPlaceTable)
        .where(notInArray(webhook, [...names]))
        .run();
      tx.delete(deadEventTable)
        .where(notInArray(deadEventTable.webhook, [...names]))
        .run();
      const { number } = webhookEventTable;
      const last = tx.select({ number }).from(webhookEventTable).orderBy(desc(number)).limit(1).get()?.number ?? 0;
      const added = names.map((name) => ({ webhook: name, upTo: last, beyond: "[]" }));
      if (added.length > 0) tx.insert(webhookPlaceTable).values(added).onConflictDoNothing().run();
      trim(tx);
      return tx
        .select()
        .from(webhookPlaceTable)
        .all()
        .map((place) => ({ ...place, beyond: JSON.parse(place.beyond) as number[] }));
    });
  }

  events(after: number, limit: number): StoredWebhookEvent[] {
    const { number } = webhookEventTable;
    return this.#db.select().from(webhookEventTable).where(gt(number, after)).orderBy(asc(number)).limit(limit).all();
  }

  note({ place: { webhook, upTo, beyond }, dead, revived }: WebhookProgress): number {
    return this.#db.transaction((tx) => {
      const set = { upTo, beyond: JSON.stringify(beyond) };
      tx.update(webhookPlaceTable).set(set).where(eq(webhookPlaceTable.webhook, webhook)).run();
      if (revived.length > 0) {
        const isIt = and(eq(deadEventTable.webhook, webhook), inArray(deadEventTable.number, [...revived]));
        tx.delete(deadEventTable).where(isIt).run();
      }
      for (const event of dead) {
        const { attempts, givenUpAtMs, why } = event;
        tx.insert(deadEventTable)
          .values({ webhook, ...event, again: false })
          .onConflictDoUpdate({
            target: [deadEventTable.webhook, deadEventTable.number],
            set: { attempts, givenUpAtMs, why, again: false },
          })
          .run();
      }
      trim(tx);
      return dead.length === 0 ? 0 : dropOldest(tx, webhook);
    });
  }

  dead(webhook: string, after: number, limit: number): DeadEventRow[] {
    const { number } = deadEventTable;
    const isMeant = and(eq(deadEventTable.webhook, webhook), gt(number, after));
    return this.#db.select().from(deadEventTable).where(isMeant).orderBy(asc(number)).limit(limit).all();
  }

  deadCounts(): { webhook: string; count: number }[] {
    const { webhook } = deadEventTable;
    return this.#db.select({ webhook, count: count() }).from(deadEventTable).groupBy(webhook).all();
  }

  revived(webhook: string, limit: number): DeadEventRow[] {
    const isMeant = and(eq(deadEventTable.webhook, webhook), eq(deadEventTable.again, true));
    return this.#db.select().from(deadEventTable).where(isMeant).orderBy(asc(deadEventTable.number)).limit(limit).all();
  }

  settle(webhook: string, numbers: readonly number[] | undefined, how: "again" | "discard"): number {
    const some = numbers && inArray(deadEventTable.number, [...numbers]);
    const isMeant = and(eq(deadEventTable.webhook, webhook), some);
    return how === "discard"
      ? this.#db.delete(deadEventTable).where(isMeant).run().changes
      : this.#db.update(deadEventTable).set({ again: true }).where(isMeant).run().changes;
  }
}

/** Removes what all webhooks have got. */
function trim(tx: Database): void {
  const slowest = tx
    .select({ upTo: min(webhookPlaceTable.upTo) })
    .from(webhookPlaceTable)
    .get()?.upTo;
  const done = slowest == null ? undefined : lte(webhookEventTable.number, slowest);
  tx.delete(webhookEventTable).where(done).run();
}

function dropOldest(tx: Database, webhook: string): number {
  const { number } = deadEventTable;
  const own = eq(deadEventTable.webhook, webhook);
  const first = tx
    .select({ number })
    .from(deadEventTable)
    .where(own)
    .orderBy(desc(number))
    .limit(1)
    .offset(DEAD_MAX)
    .get();
  if (first === undefined) return 0;
  return tx
    .delete(deadEventTable)
    .where(and(own, lte(number, first.number)))
    .run().changes;
}
