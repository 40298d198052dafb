import type { Logger } from "pino";
import type { HarborHistory } from "../journal/harbor-history.ts";
import type { Found } from "../journal/kept-harbor.ts";

/** Looks once, beside the service, at what a start did not read: the events from before its newest snapshot. */
export class HistoryCheck {
  #fault: string | undefined;
  #isOver = false;

  /** What is wrong with the past, once it is known. The present is not of it: that came from the snapshot. */
  get fault(): string | undefined {
    return this.#fault;
  }

  /** Begins to look; what is found is logged, and kept. */
  begin(history: HarborHistory, { snapshot }: Pick<Found, "snapshot">, log: Pick<Logger, "error">): void {
    this.#look(history, snapshot, log).catch((error: unknown) => log.error(error, "the past was not looked at"));
  }

  async #look(history: HarborHistory, snapshot: Found["snapshot"], log: Pick<Logger, "error">): Promise<void> {
    // Without a snapshot the start itself has read everything.
    if ((await snapshot) === undefined || this.#isOver) return;
    const fault = await history.check().catch((error: unknown) => {
      if (this.#isOver) return undefined;
      throw error;
    });
    if (fault === undefined) return;
    this.#fault = fault;
    log.error(
      `the journal's past cannot be relied on: ${fault}. The service itself goes on, since it began from a snapshot that is whole; looking back, replays and backups do not go past that place. Restore a backup, or move the folder away and keep it.`,
    );
  }

  /** The journal is about to be closed. */
  end(): void {
    this.#isOver = true;
  }
}
