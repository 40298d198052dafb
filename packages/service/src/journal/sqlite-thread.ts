import { parentPort, workerData } from "node:worker_threads";
import type { AuditQuery } from "@yellow-harbor/protocol";
import { createBirpc } from "birpc";
import { DataFolderError } from "./data-folder.ts";
import type {
  InstanceRecordQuery,
  JournalKeep,
  NewAuditEntry,
  OperatorKeyRow,
  OperatorSessionRow,
  Snapshot,
} from "./journal.ts";
import { type PackedBatch, packRows } from "./packing.ts";
import { SqliteStore } from "./sqlite-store.ts";

/** How the store was opened. */
export type StoreOpening =
  | { readonly opened: true; readonly lastSeq: number; readonly lastAtMs: number; readonly secret: Uint8Array }
  | { readonly opened: false; readonly code: "data-locked" | "data-unusable"; readonly message: string };

/** What the service's thread calls here. Calls are carried out in the order in which they come. */
export type StoreCalls = ReturnType<typeof callsOf>;

if (parentPort === null) throw new Error("this file is started as a thread");
const port = parentPort;
const calls = callsOf((workerData as { folder: string }).folder);
createBirpc<Record<string, never>, StoreCalls>(calls, {
  post: (message) => port.postMessage(message),
  on: (take) => port.on("message", take),
});

function callsOf(folder: string) {
  const found = open(folder);
  /** What SQLite throws is no plain error, and would come over without its message. */
  const using = <T>(act: (store: SqliteStore) => T): T => {
    try {
      if ("code" in found) throw new Error(found.message);
      return act(found);
    } catch (error) {
      throw new Error((error as Error).message);
    }
  };
  return {
    opening: (): StoreOpening => {
      if ("code" in found) return { opened: false, ...found };
      const { lastSeq, lastAtMs, secret } = found;
      return { opened: true, lastSeq, lastAtMs, secret };
    },
    append: (batch: PackedBatch, expectedSeq: number) => using((store) => store.append(batch, expectedSeq)),
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
    addAudit: (entry: NewAuditEntry) => using(({ operators }) => operators.addAudit(entry)),
    auditPage: (query: AuditQuery) => using(({ operators }) => operators.auditPage(query)),
    checkAudit: () => using(({ operators }) => operators.checkAudit()),
    trimAudit: (untilMs: number) => using(({ operators }) => operators.trimAudit(untilMs)),
    erasePerson: (who: string) => using((store) => store.erasePerson(who)),
    close: () => {
      using((store) => store.close());
      port.unref();
    },
  };
}

function open(
  folder: string,
): SqliteStore | { readonly code: "data-locked" | "data-unusable"; readonly message: string } {
  try {
    return new SqliteStore(folder);
  } catch (error) {
    const code = error instanceof DataFolderError ? error.code : "data-unusable";
    return { code, message: (error as Error).message };
  }
}
