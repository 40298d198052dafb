import { parentPort, workerData } from "node:worker_threads";
import { DataFolderError } from "./data-folder.ts";
import type { InstanceRecordQuery, JournalKeep, Snapshot } from "./journal.ts";
import { type PackedBatch, packRows } from "./packing.ts";
import { SqliteStore } from "./sqlite-store.ts";

/** What the service's thread asks of this one. Answered in order, each with its id. */
export type StoreRequest = { readonly id: number } & (
  | { readonly do: "append"; readonly batch: PackedBatch; readonly expectedSeq: number }
  | { readonly do: "read"; readonly fromSeq: number; readonly limit: number }
  | { readonly do: "newest-snapshot" }
  | { readonly do: "write-snapshot"; readonly snapshot: Snapshot; readonly spacing: number }
  | { readonly do: "trim"; readonly keep: JournalKeep; readonly version: number; readonly limit: number }
  | { readonly do: "instance-records"; readonly query: InstanceRecordQuery }
  | { readonly do: "instance-record"; readonly instance: string }
  | { readonly do: "close" }
);

export type StoreAnswer =
  | { readonly id: number; readonly value: unknown }
  | { readonly id: number; readonly failure: string };

export type StoreOpening =
  | { readonly opened: true; readonly lastSeq: number; readonly lastAtMs: number; readonly secret: Uint8Array }
  | { readonly opened: false; readonly code: "data-locked" | "data-unusable"; readonly message: string };

const port = parentPort;
if (port === null) throw new Error("this file is started as a thread");

const store = open((workerData as { folder: string }).folder);
if (store) {
  const { lastSeq, lastAtMs, secret } = store;
  port.postMessage({ opened: true, lastSeq, lastAtMs, secret } satisfies StoreOpening);
  port.on("message", (request: StoreRequest) => port.postMessage(answer(store, request)));
}

function open(folder: string): SqliteStore | undefined {
  try {
    return new SqliteStore(folder);
  } catch (error) {
    const code = error instanceof DataFolderError ? error.code : "data-unusable";
    port?.postMessage({ opened: false, code, message: String((error as Error).message) } satisfies StoreOpening);
    return undefined;
  }
}

function answer(store: SqliteStore, request: StoreRequest): StoreAnswer {
  try {
    return { id: request.id, value: carryOut(store, request) };
  } catch (error) {
    return { id: request.id, failure: String((error as Error).message) };
  }
}

function carryOut(store: SqliteStore, request: StoreRequest): unknown {
  switch (request.do) {
    case "append":
      return store.append(request.batch, request.expectedSeq);
    case "read":
      return packRows(store.read(request.fromSeq, request.limit));
    case "newest-snapshot":
      return store.newestSnapshot();
    case "write-snapshot":
      return store.writeSnapshot(request.snapshot, request.spacing);
    case "trim":
      return store.trim(request.keep, request.version, request.limit);
    case "instance-records":
      return store.instanceRecords(request.query);
    case "instance-record":
      return store.instanceRecord(request.instance);
    case "close":
      store.close();
      port?.unref();
      return undefined;
  }
}
