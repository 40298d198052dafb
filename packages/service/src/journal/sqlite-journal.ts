import { join } from "node:path";
import { Worker } from "node:worker_threads";
import type { InstanceView } from "@yellow-harbor/protocol";
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
  Snapshot,
} from "./journal.ts";
import { type PackedRows, packBatch, unpackRows } from "./packing.ts";
import type { StoreAnswer, StoreOpening, StoreRequest } from "./sqlite-thread.ts";

/** A data folder that cannot be opened. */
export class JournalOpenError extends Error {
  readonly code: "data-locked" | "data-unusable";
  constructor(code: "data-locked" | "data-unusable", message: string) {
    super(message);
    this.code = code;
  }
}

type Asked = StoreRequest extends infer R ? (R extends { id: number } ? Omit<R, "id"> : never) : never;

/** Opens the embedded journal. SQLite lives in a thread of its own, so that a slow disk never holds the event loop. */
export async function openSqliteJournal(folder: string): Promise<OpenedJournal> {
  const thread = startThread(folder);
  const journal = new SqliteJournal(thread, join(folder, DATABASE_FILE));
  // Asked for before anything is known: it is read as soon as the file is open, while this thread still loads.
  const snapshot = journal.newestSnapshot();
  // Who awaits it hears of a failure.
  snapshot.catch(() => undefined);
  const opening = await new Promise<StoreOpening>((resolve, reject) => {
    thread.once("message", resolve);
    thread.once("error", reject);
  });
  if (!opening.opened) {
    await thread.terminate();
    throw new JournalOpenError(opening.code, opening.message);
  }
  const { lastSeq, lastAtMs, secret } = opening;
  return { journal, lastSeq, lastAtMs, secret, snapshot };
}

function startThread(folder: string): Worker {
  // Rows live for one commit: with little room for the young they are collected at once, instead of filling 48 MiB first.
  const resourceLimits = { maxYoungGenerationSizeMb: 6 };
  return new Worker(threadFile("sqlite-thread", import.meta.url), {
    workerData: { folder },
    execArgv: [],
    resourceLimits,
  });
}

class SqliteJournal implements Journal {
  readonly #thread: Worker;
  readonly #history: HistoryReader;
  readonly #waiting = new Map<number, { resolve: (value: unknown) => void; reject: (error: Error) => void }>();
  #asked = 0;
  #broken: Error | undefined;

  constructor(thread: Worker, file: string) {
    this.#thread = thread;
    this.#history = new HistoryReader(file);
    // The first message is the opening, and answers nothing that was asked.
    thread.on("message", (answer: StoreAnswer | StoreOpening) => "id" in answer && this.#settle(answer));
    thread.on("error", (error) => this.#breakDown(error as Error));
    thread.on("exit", () => this.#breakDown(new Error("the journal's thread has ended")));
  }

  append(batch: JournalBatch, expectedSeq: number): Promise<void> {
    return this.#ask({ do: "append", batch: packBatch(batch), expectedSeq });
  }

  async read(fromSeq: number, limit: number): Promise<JournalRow[]> {
    return unpackRows(await this.#ask<PackedRows>({ do: "read", fromSeq, limit }));
  }

  newestSnapshot(): Promise<Snapshot | undefined> {
    return this.#ask({ do: "newest-snapshot" });
  }

  snapshotAt(seq: number): Promise<Snapshot> {
    return this.#history.ask({ do: "snapshot", seq });
  }

  writeSnapshot(snapshot: Snapshot, spacing: number): Promise<void> {
    return this.#ask({ do: "write-snapshot", snapshot, spacing });
  }

  trim(keep: JournalKeep, version: number, limit: number): Promise<number> {
    return this.#ask({ do: "trim", keep, version, limit });
  }

  history(question: HistoryQuestion): Promise<HistoryAnswer> {
    return this.#history.ask({ do: "room", question });
  }

  async checkHistory(): Promise<string | undefined> {
    return this.#history.check();
  }

  copyTo(file: string): Promise<void> {
    return this.#history.ask({ do: "copy", to: file });
  }

  instanceRecords(query: InstanceRecordQuery): Promise<InstanceView[]> {
    return this.#ask({ do: "instance-records", query });
  }

  instanceRecord(instance: string): Promise<InstanceView | undefined> {
    return this.#ask({ do: "instance-record", instance });
  }

  async close(): Promise<void> {
    if (this.#broken) return;
    await this.#history.close();
    await this.#ask({ do: "close" });
    await this.#thread.terminate();
  }

  #ask<T>(request: Asked): Promise<T> {
    const id = ++this.#asked;
    return new Promise<T>((resolve, reject) => {
      if (this.#broken) return reject(this.#broken);
      this.#waiting.set(id, { resolve: resolve as (value: unknown) => void, reject });
      this.#thread.postMessage({ ...request, id } satisfies StoreRequest);
    });
  }

  #settle(answer: StoreAnswer): void {
    const waiting = this.#waiting.get(answer.id);
    this.#waiting.delete(answer.id);
    if ("failure" in answer) waiting?.reject(new Error(answer.failure));
    else waiting?.resolve(answer.value);
  }

  #breakDown(error: Error): void {
    this.#broken ??= error;
    for (const { reject } of this.#waiting.values()) reject(error);
    this.#waiting.clear();
  }
}
