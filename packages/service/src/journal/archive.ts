import { Worker } from "node:worker_threads";
import type { ArchiveAnswer, ArchiveJob } from "./archive-thread.ts";
import { threadFile } from "./files.ts";

/** Looks back take a processor each while they last; more than this wait for their turn. */
const AT_ONCE = 2;

type Job = ArchiveJob extends infer J ? (J extends { file: string } ? Omit<J, "file"> : never) : never;

/**
 * Looks into the database file beside the one who writes it. Each question has a thread of its own that ends with the
 * answer: going through a long past must hold up neither the event loop nor the journal.
 */
export class Archive {
  readonly #file: string;
  readonly #running = new Set<Promise<unknown>>();
  #checking: Worker | undefined;
  #isClosed = false;

  constructor(file: string) {
    this.#file = file;
  }

  async ask<T>(job: Job): Promise<T> {
    while (this.#running.size >= AT_ONCE) await Promise.race(this.#running);
    if (this.#isClosed) throw new Error("the journal is closed");
    const asking = answerOf(start({ ...job, file: this.#file }));
    const settled = asking.catch(() => undefined).finally(() => this.#running.delete(settled));
    this.#running.add(settled);
    return asking as Promise<T>;
  }

  /** Holds all that is kept against its checksums. It is nobody's answer, so a close does not wait for it. */
  check(): Promise<string | undefined> {
    if (this.#isClosed) throw new Error("the journal is closed");
    this.#checking = start({ do: "check", file: this.#file });
    return answerOf(this.#checking) as Promise<string | undefined>;
  }

  /** Waits for those who are under way. */
  async close(): Promise<void> {
    this.#isClosed = true;
    await this.#checking?.terminate();
    await Promise.all(this.#running);
  }
}

const start = (job: ArchiveJob) => new Worker(threadFile("archive-thread"), { workerData: job, execArgv: [] });

function answerOf(thread: Worker): Promise<unknown> {
  return new Promise((resolve, reject) => {
    thread.once("error", reject);
    thread.once("exit", (code) => reject(new Error(`the archive's thread ended with ${code}`)));
    thread.once("message", (answer: ArchiveAnswer) => {
      if ("failure" in answer) reject(new Error(answer.failure));
      else resolve(answer.value);
    });
  });
}
