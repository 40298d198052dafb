import { fileURLToPath } from "node:url";
import type { Tinypool } from "tinypool";
import { threadFile } from "../journal/files.ts";
import type { HistoryJob } from "./history-thread.ts";

/** Going through a long past takes a processor while it lasts; more questions than this wait for their turn. */
const AT_ONCE = 2;
/** A thread that has answered stays for the next question so long: starting one takes longer than most answers. */
const WARM_MS = 60_000;

type Job = HistoryJob extends infer J ? (J extends { file: string } ? Omit<J, "file"> : never) : never;

/**
 * Looks into the database file beside the one who writes it, in threads of its own: going through a long past must hold up
 * neither the event loop nor the journal.
 */
export class HistoryReader {
  readonly #file: string;
  readonly #asked = new Set<Promise<unknown>>();
  readonly #checking = new AbortController();
  #pool: Promise<Tinypool> | undefined;
  #isClosed = false;

  constructor(file: string) {
    this.#file = file;
  }

  ask<T>(job: Job): Promise<T> {
    const asking = this.#run(job);
    const settled = asking.catch(() => undefined).finally(() => this.#asked.delete(settled));
    this.#asked.add(settled);
    return asking as Promise<T>;
  }

  /** Holds all that is kept against its checksums. It is nobody's answer, so a close does not wait for it. */
  check(): Promise<string | undefined> {
    return this.#run({ do: "check" }, this.#checking.signal) as Promise<string | undefined>;
  }

  /** Waits for those who are under way. */
  async close(): Promise<void> {
    this.#isClosed = true;
    this.#checking.abort();
    await Promise.all(this.#asked);
    await (await this.#pool)?.destroy();
  }

  async #run(job: Job, signal?: AbortSignal): Promise<unknown> {
    if (this.#isClosed) throw new Error("the journal is closed");
    this.#pool ??= this.#start();
    const pool = await this.#pool;
    return pool.run({ ...job, file: this.#file }, signal && { signal });
  }

  /** Loaded when somebody asks: most services are never asked, and all have to start. */
  async #start(): Promise<Tinypool> {
    const { Tinypool: Pool } = await import("tinypool");
    return new Pool({
      filename: fileURLToPath(threadFile("history-thread", import.meta.url)),
      runtime: "worker_threads",
      minThreads: 0,
      maxThreads: AT_ONCE,
      idleTimeout: WARM_MS,
      execArgv: [],
    });
  }
}
