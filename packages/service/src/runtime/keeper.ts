import type { Harbor } from "@yellow-harbor/core";
import type { Logger } from "pino";
import type { Found, KeptHarbor } from "../journal/kept-harbor.ts";
import { steadyMs } from "./clock.ts";
import { recoverHarbor } from "./recover.ts";
import type { HarborRuntime } from "./runtime.ts";

/** Pause before the first try to have the log again, and the longest between two; each is twice the one before. */
const FIRST_PAUSE_MS = 250;
const LONGEST_PAUSE_MS = 8_000;
/** A log that was written for so long is taken for one that works again. */
const STEADY_MS = 30_000;

interface KeeperParts {
  readonly runtime: HarborRuntime;
  readonly kept: Pick<KeptHarbor, "reopen">;
  readonly log: Pick<Logger, "warn">;
  /** The first commands of a harbor that was taken again. */
  readonly begin: (found: Found) => Promise<void>;
}

/** Has a harbor go on once its log, that was away, can be had again: from what is durable, as at a start. */
export class HarborKeeper {
  readonly #parts: KeeperParts;
  #pauseMs = FIRST_PAUSE_MS;
  #takenAtMs = Number.NEGATIVE_INFINITY;
  #timer: NodeJS.Timeout | undefined;
  #taking: Promise<void> = Promise.resolve();
  #isOver = false;

  constructor(parts: KeeperParts) {
    this.#parts = parts;
  }

  /** The runtime has failed because the log is away. */
  lost(): void {
    const lostAtMs = steadyMs();
    if (lostAtMs - this.#takenAtMs > STEADY_MS) this.#pauseMs = FIRST_PAUSE_MS;
    this.#later(lostAtMs);
  }

  /** Resolves once nothing is tried any more. */
  async end(): Promise<void> {
    this.#isOver = true;
    clearTimeout(this.#timer);
    await this.#taking;
  }

  #later(lostAtMs: number): void {
    if (this.#isOver) return;
    this.#timer = setTimeout(() => {
      this.#taking = this.#take(lostAtMs);
    }, this.#pauseMs);
    this.#pauseMs = Math.min(this.#pauseMs * 2, LONGEST_PAUSE_MS);
  }

  async #take(lostAtMs: number): Promise<void> {
    const { runtime, log, begin } = this.#parts;
    const taken = await this.#recover().catch((error: unknown) => {
      log.warn({ err: error }, "the journal cannot be written yet");
      this.#later(lostAtMs);
    });
    if (taken === undefined || this.#isOver) return;
    runtime.takeAgain(taken.harbor, taken.found);
    this.#takenAtMs = steadyMs();
    const silentMs = Math.round(this.#takenAtMs - lostAtMs);
    log.warn({ silentMs, events: taken.found.lastSeq }, "the journal is written again; the harbor goes on");
    await begin(taken.found);
  }

  async #recover(): Promise<{ readonly harbor: Harbor; readonly found: Found }> {
    const found = await this.#parts.kept.reopen();
    return { harbor: await recoverHarbor(this.#parts.runtime.rules, found), found };
  }
}
