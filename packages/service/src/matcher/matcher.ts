import { Worker } from "node:worker_threads";
import type { LookForMatches } from "@yellow-harbor/core";
import type { Logger } from "pino";
import { threadFile } from "../journal/files.ts";
import type { HarborRuntime } from "../runtime-parts.ts";
import type { Answer } from "./matcher-thread.ts";

export interface MatcherParts {
  readonly runtime: Pick<HarborRuntime, "ask">;
  readonly log: Logger;
  /** How long a look took, in milliseconds. */
  readonly looked: (queue: string, tookMs: number) => void;
}

/** Has matches looked for in a thread of its own, so that nobody else waits for a search. Started with the first look. */
export class Matcher {
  readonly #parts: MatcherParts;
  #worker: Worker | undefined;
  #isClosed = false;

  constructor(parts: MatcherParts) {
    this.#parts = parts;
  }

  carryOut(effect: LookForMatches): void {
    if (this.#isClosed) return;
    this.#worker ??= this.#start();
    this.#worker.postMessage(effect);
  }

  /** The thread that runs now; undefined before the first look. */
  get threadId(): number | undefined {
    return this.#worker?.threadId;
  }

  async close(): Promise<void> {
    this.#isClosed = true;
    await this.#worker?.terminate();
  }

  #start(): Worker {
    const worker = new Worker(threadFile("matcher-thread", import.meta.url), { execArgv: [] });
    worker.on("message", (answer: Answer) => void this.#propose(answer));
    worker.on("error", (error) => this.#parts.log.error({ err: error }, "the matcher's thread failed"));
    worker.once("exit", () => void this.#lost(worker));
    worker.unref();
    return worker;
  }

  async #propose({ queue, look, matches, hasMore, tookMs }: Answer): Promise<void> {
    const { runtime, log, looked } = this.#parts;
    looked(queue, tookMs);
    const settled = await runtime.ask({ do: "queue.propose", queue, look, matches, hasMore });
    if ("refused" in settled) return;
    const { made, refused } = settled.reply;
    if (refused > 0)
      log.debug({ queue, made, refused }, "matches that were found no longer fit, and are looked for again");
  }

  /** The next look starts another, which is told everything. */
  async #lost(worker: Worker): Promise<void> {
    if (this.#worker !== worker) return;
    this.#worker = undefined;
    if (this.#isClosed) return;
    this.#parts.log.warn("the matcher's thread has ended; searches go on with another within seconds");
    await this.#parts.runtime.ask({ do: "queue.matcher-lost" });
  }
}
