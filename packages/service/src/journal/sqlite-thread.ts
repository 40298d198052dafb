import { parentPort } from "node:worker_threads";
import type { AuditQuery } from "@yellow-harbor/protocol";
import { createBirpc } from "birpc";
import { DataFolderError, lockFolder } from "./data-folder.ts";
import type { JournalKeep } from "./event-log.ts";
import type { InstanceRecordQuery } from "./harbor-history.ts";
import type { NewAuditEntry, OperatorKeyRow, OperatorSessionRow } from "./operator-store.ts";
import { type PackedBatch, packRows } from "./packing.ts";
import type { Snapshot } from "./snapshots.ts";
import { Fenced, type Place, SqliteStore } from "./sqlite-store.ts";
import type { NewWebhookEvent, WebhookProgress } from "./webhook-store.ts";

interface NotOpened {
  readonly opened: false;
  readonly code: "data-locked" | "data-unusable";
  readonly message: string;
}

/** How the store was opened. */
export type StoreOpening =
  | {
      readonly opened: true;
      readonly epoch: number;
      readonly lastSeq: number;
      readonly lastAtMs: number;
      readonly secret: Uint8Array;
    }
  | NotOpened;

/** What the service's thread calls here. Calls are carried out in the order in which they come. */
export type StoreCalls = ReturnType<typeof callsOf>;

const CLOSED: NotOpened = { opened: false, code: "data-unusable", message: "no harbor is open in this thread" };

if (parentPort === null) throw new Error("this file is started as a thread");
const port = parentPort;
createBirpc<Record<string, never>, StoreCalls>(callsOf(), {
  post: (message) => port.postMessage(message),
  on: (take) => port.on("message", take),
});

function callsOf() {
  let folder = "";
  // Held until the harbor is closed or the process ends, whatever becomes of the store.
  let lock: ReturnType<typeof lockFolder> | NotOpened = CLOSED;
  let found: SqliteStore | NotOpened = CLOSED;
  /** What SQLite throws is no plain error, and would come over without its message. */
  const using = <T>(act: (store: SqliteStore) => T): T => {
    try {
      if ("opened" in found) throw new Error(found.message);
      return act(found);
    } catch (error) {
      throw new Error((error as Error).message);
    }
  };
  return {
    /** Opens a harbor; one after the other, each closed before the next. */
    open: (at: string): StoreOpening => {
      folder = at;
      lock = attempt(() => lockFolder(folder));
      found = "opened" in lock ? lock : attempt(() => new SqliteStore(folder));
      return openingOf(found);
    },
    reopen: (): StoreOpening => {
      if ("opened" in lock) return lock;
      if (!("opened" in found)) found.close();
      found = attempt(() => new SqliteStore(folder));
      return openingOf(found);
    },
    /** Undefined once the batch is durable; else why it was not taken. */
    append: (batch: PackedBatch, place: Place): { code: "fenced" | "away"; message: string } | undefined => {
      if ("opened" in found) return { code: "away", message: found.message };
      try {
        found.append(batch, place);
        return undefined;
      } catch (error) {
        return { code: error instanceof Fenced ? "fenced" : "away", message: (error as Error).message };
      }
    },
    read: (fromSeq: number, limit: number) => using((store) => packRows(store.read(fromSeq, limit))),
    newestSnapshot: () => using((store) => store.newestSnapshot()),
    writeSnapshot: (snapshot: Snapshot, spacing: number) => using((store) => store.writeSnapshot(snapshot, spacing)),
    trim: (keep: JournalKeep, version: number, limit: number) => using((store) => store.trim(keep, version, limit)),
    instanceRecords: (query: InstanceRecordQuery) => using((store) => store.instanceRecords(query)),
    instanceRecord: (instance: string) => using((store) => store.instanceRecord(instance)),
    operatorKeys: () => using(({ operators }) => operators.keys()),
    putOperatorKey: (row: OperatorKeyRow) => using(({ operators }) => operators.putKey(row)),
    operatorSessions: () => using(({ operators }) => operators.sessions()),
    putOperatorSession: (row: OperatorSessionRow) => using(({ operators }) => operators.putSession(row)),
    removeOperatorSession: (id: string) => using(({ operators }) => operators.removeSession(id)),
    addAudit: (entry: NewAuditEntry, told?: NewWebhookEvent) =>
      using(({ operators }) => operators.addAudit(entry, told)),
    auditPage: (query: AuditQuery) => using(({ operators }) => operators.auditPage(query)),
    checkAudit: () => using(({ operators }) => operators.checkAudit()),
    trimAudit: (untilMs: number) => using(({ operators }) => operators.trimAudit(untilMs)),
    openWebhooks: (names: readonly string[]) => using(({ webhooks }) => webhooks.open(names)),
    addWebhookEvents: (events: readonly NewWebhookEvent[]) => using(({ webhooks }) => webhooks.add(events)),
    webhookEvents: (after: number, limit: number) => using(({ webhooks }) => webhooks.events(after, limit)),
    noteWebhook: (progress: WebhookProgress) => using(({ webhooks }) => webhooks.note(progress)),
    deadEvents: (webhook: string, after: number, limit: number) =>
      using(({ webhooks }) => webhooks.dead(webhook, after, limit)),
    deadCounts: () => using(({ webhooks }) => webhooks.deadCounts()),
    revivedEvents: (webhook: string, limit: number) => using(({ webhooks }) => webhooks.revived(webhook, limit)),
    settleDead: (webhook: string, numbers: readonly number[] | undefined, how: "again" | "discard") =>
      using(({ webhooks }) => webhooks.settle(webhook, numbers, how)),
    erasePerson: (who: string) => using((store) => store.erasePerson(who)),
    close: () => {
      if (!("opened" in found)) found.close();
      if (!("opened" in lock)) lock.close();
      found = CLOSED;
      lock = CLOSED;
    },
  };
}

function openingOf(found: SqliteStore | NotOpened): StoreOpening {
  if ("opened" in found) return found;
  const { epoch, lastSeq, lastAtMs, secret } = found;
  return { opened: true, epoch, lastSeq, lastAtMs, secret };
}

function attempt<T>(open: () => T): T | NotOpened {
  try {
    return open();
  } catch (error) {
    const code = error instanceof DataFolderError ? error.code : "data-unusable";
    return { opened: false, code, message: (error as Error).message };
  }
}
