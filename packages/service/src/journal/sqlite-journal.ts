import { join } from "node:path";
import { Worker } from "node:worker_threads";
import type { InstanceView, PersonErased } from "@yellow-harbor/protocol";
import { type BirpcReturn, createBirpc } from "birpc";
import { HistoryReader } from "../history/history.ts";
import { DATABASE_FILE, threadFile } from "./files.ts";
import type {
  HistoryAnswer,
  HistoryQuestion,
  InstanceRecordQuery,
  Journal,
  JournalBatch,
  JournalKeep,
  JournalRow,
  OpenedJournal,
  PersonKept,
  Snapshot,
} from "./journal.ts";
import { packBatch, unpackRows } from "./packing.ts";
import type { StoreCalls } from "./sqlite-thread.ts";

/** A data folder that cannot be opened. */
export class JournalOpenError extends Error {
  readonly code: "data-locked" | "data-unusable";
  constructor(code: "data-locked" | "data-unusable", message: string) {
    super(message);
    this.code = code;
  }
}

type Store = BirpcReturn<StoreCalls>;

/** Opens the embedded journal. SQLite lives in a thread of its own, so that a slow disk never holds the event loop. */
export async function openSqliteJournal(folder: string): Promise<OpenedJournal> {
  const thread = startThread(folder);
  const store = storeIn(thread);
  const journal = new SqliteJournal(thread, store, join(folder, DATABASE_FILE));
  const asked = store.opening();
  // Asked for before anything is known: it is read as soon as the file is open, while this thread still loads.
  const snapshot = journal.newestSnapshot();
  // Who awaits it hears of a failure.
  snapshot.catch(() => undefined);
  const opening = await asked;
  if (!opening.opened) {
    await thread.terminate();
    throw new JournalOpenError(opening.code, opening.message);
  }
  const { lastSeq, lastAtMs, secret } = opening;
  // The store has the calls for operators by their names.
  return { journal, operators: store, lastSeq, lastAtMs, secret, snapshot };
}

function startThread(folder: string): Worker {
  // Rows live for one commit: with little room for the young they are collected at once, instead of backfill 48 MiB first.
  const resourceLimits = { maxYoungGenerationSizeMb: 6 };
  return new Worker(threadFile("sqlite-thread", import.meta.url), {
    workerData: { folder },
    execArgv: [],
    resourceLimits,
  });
}

/** The store in its thread. Once that has ended, every call is rejected with why. */
function storeIn(thread: Worker): Store {
  const store = createBirpc<StoreCalls>(
    {},
    {
      post: (message) => thread.postMessage(message),
      on: (take) => thread.on("message", take),
      // A slow disk is waited for: what watches over it are the time-outs of who is served.
      timeout: -1,
    },
  );
  thread.on("error", (error) => store.$close(error as Error));
  thread.on("exit", () => store.$close(new Error("the journal's thread has ended")));
  return store;
}

class SqliteJournal implements Journal {
  readonly #thread: Worker;
  readonly #store: Store;
  readonly #history: HistoryReader;

  constructor(thread: Worker, store: Store, file: string) {
    this.#thread = thread;
    this.#store = store;
    this.#history = new HistoryReader(file);
  }

  append(batch: JournalBatch, expectedSeq: number): Promise<void> {
    return this.#store.append(packBatch(batch), expectedSeq);
  }

  async read(fromSeq: number, limit: number): Promise<JournalRow[]> {
    return unpackRows(await this.#store.read(fromSeq, limit));
  }

  newestSnapshot(): Promise<Snapshot | undefined> {
    return this.#store.newestSnapshot();
  }

  snapshotAt(seq: number): Promise<Snapshot> {
    return this.#history.ask({ do: "snapshot", seq });
  }

  writeSnapshot(snapshot: Snapshot, spacing: number): Promise<void> {
    return this.#store.writeSnapshot(snapshot, spacing);
  }

  trim(keep: JournalKeep, version: number, limit: number): Promise<number> {
    return this.#store.trim(keep, version, limit);
  }

  history(question: HistoryQuestion): Promise<HistoryAnswer> {
    return this.#history.ask({ do: "room", question });
  }

  async checkHistory(): Promise<string | undefined> {
    return this.#history.check();
  }

  copyTo(file: string, { withSecret }: { readonly withSecret: boolean }): Promise<void> {
    return this.#history.ask({ do: "copy", to: file, withSecret });
  }

  instanceRecords(query: InstanceRecordQuery): Promise<InstanceView[]> {
    return this.#store.instanceRecords(query);
  }

  personEvents(who: string): Promise<PersonKept> {
    return this.#history.ask({ do: "person", who });
  }

  erasePerson(who: string): Promise<PersonErased> {
    return this.#store.erasePerson(who);
  }

  instanceRecord(instance: string): Promise<InstanceView | undefined> {
    return this.#store.instanceRecord(instance);
  }

  async close(): Promise<void> {
    if (this.#store.$closed) return;
    await this.#history.close();
    await this.#store.close();
    await this.#thread.terminate();
  }
}
