import type { OperatorRole, WebhookEventType } from "@yellow-harbor/protocol";
import { blob, index, integer, primaryKey, sqliteTable, text } from "drizzle-orm/sqlite-core";

/** Everything that happened, in order. Only ever appended to. */
export const journalTable = sqliteTable("journal", {
  seq: integer("seq").primaryKey(),
  /** Milliseconds since 1970-01-01T00:00:00Z. */
  atMs: integer("at_ms").notNull(),
  kind: text("kind").notNull(),
  /** Of the form of its kind. */
  version: integer("version").notNull(),
  /** The event as JSON. */
  body: text("body").notNull(),
  /** At the last event of each batch: the sum of all events up to it, see `chain.ts`. */
  chain: blob("chain", { mode: "buffer" }),
});

/** The state after the event `seq`. */
export const snapshotTable = sqliteTable("snapshots", {
  seq: integer("seq").primaryKey(),
  atMs: integer("at_ms").notNull(),
  version: integer("version").notNull(),
  body: text("body").notNull(),
  /** Of the journal at `seq`: what comes after is held against it once the events before are trimmed away. */
  chain: blob("chain", { mode: "buffer" }),
  /** SHA-256 of the body. */
  sum: blob("sum", { mode: "buffer" }),
});

/** Each instance as it was last seen, also long after it has ended. Projected from the journal. */
export const instanceTable = sqliteTable(
  "instances",
  {
    id: text("id").primaryKey(),
    launchedAtMs: integer("launched_at_ms").notNull(),
    pool: text("pool").notNull(),
    state: text("state").notNull(),
    /** The view as JSON. */
    view: text("view").notNull(),
  },
  (table) => [index("instances_by_time").on(table.launchedAtMs), index("instances_by_state").on(table.state)],
);

/** Keys of operators, without their secrets. */
export const operatorKeyTable = sqliteTable("operator_keys", {
  id: text("id").primaryKey(),
  name: text("name").notNull(),
  role: text("role").$type<OperatorRole>().notNull(),
  /** SHA-256 of the secret. */
  hash: blob("hash", { mode: "buffer" }).notNull(),
  createdAtMs: integer("created_at_ms").notNull(),
  /** How long one in its place lives; null without an end. */
  lifeMs: integer("life_ms"),
  endsAtMs: integer("ends_at_ms"),
  revokedAtMs: integer("revoked_at_ms"),
  lastUsedAtMs: integer("last_used_at_ms"),
  lastUsedFrom: text("last_used_from"),
});

/** Browsers that are logged in to the console. */
export const operatorSessionTable = sqliteTable("operator_sessions", {
  id: text("id").primaryKey(),
  /** SHA-256 of the cookie. */
  hash: blob("hash", { mode: "buffer" }).notNull(),
  /** Key that it was begun with; null for the first one of the data folder. */
  key: text("key"),
  csrf: text("csrf").notNull(),
  fromAddress: text("from_address").notNull(),
  agent: text("agent").notNull(),
  createdAtMs: integer("created_at_ms").notNull(),
  lastUsedAtMs: integer("last_used_at_ms").notNull(),
});

/** What operators did. Only ever appended to, and shortened at its old end. */
export const auditTable = sqliteTable("audit", {
  seq: integer("seq").primaryKey({ autoIncrement: true }),
  atMs: integer("at_ms").notNull(),
  actor: text("actor").notNull(),
  action: text("action").notNull(),
  /** The entry as JSON. */
  entry: text("entry").notNull(),
  /** Sum of this entry and of all before it. */
  chain: blob("chain", { mode: "buffer" }).notNull(),
});

/** What others are to be told, in the order in which it happened; kept until all webhooks have got it. */
export const webhookEventTable = sqliteTable("webhook_events", {
  number: integer("number").primaryKey({ autoIncrement: true }),
  type: text("type").$type<WebhookEventType>().notNull(),
  /** Null where it happened in none. */
  lobby: text("lobby"),
  atMs: integer("at_ms").notNull(),
  /** As it is sent, as JSON. */
  event: text("event").notNull(),
});

/** How far each webhook is. */
export const webhookPlaceTable = sqliteTable("webhook_places", {
  webhook: text("webhook").primaryKey(),
  /** It has got all up to this number. */
  upTo: integer("up_to").notNull(),
  /** Those behind that which it has got as well: a JSON array of numbers. */
  beyond: text("beyond").notNull(),
});

/** What could not be sent, by webhook. */
export const deadEventTable = sqliteTable(
  "dead_events",
  {
    webhook: text("webhook").notNull(),
    number: integer("number").notNull(),
    type: text("type").$type<WebhookEventType>().notNull(),
    atMs: integer("at_ms").notNull(),
    event: text("event").notNull(),
    attempts: integer("attempts").notNull(),
    givenUpAtMs: integer("given_up_at_ms").notNull(),
    why: text("why").notNull(),
    /** It is to be sent again. */
    again: integer("again", { mode: "boolean" }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.webhook, table.number] })],
);

/** Facts about the data folder itself, such as the signing key. */
export const factTable = sqliteTable("facts", {
  name: text("name").primaryKey(),
  value: blob("value", { mode: "buffer" }).notNull(),
});

export const schema = {
  journalTable,
  snapshotTable,
  instanceTable,
  operatorKeyTable,
  operatorSessionTable,
  auditTable,
  webhookEventTable,
  webhookPlaceTable,
  deadEventTable,
  factTable,
};
