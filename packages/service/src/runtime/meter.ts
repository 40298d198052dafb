import type { HarborEvent } from "@yellow-harbor/core";
import type { JournalRow } from "../journal/event-log.ts";

/** What is measured of a runtime. Nothing of it may throw. */
export interface RuntimeMeter {
  /** The core has decided what a deadline brings. */
  deadline(tookMs: number): void;
  /** A batch is durable: its events, each with its row. */
  appended(rows: readonly JournalRow[], events: readonly HarborEvent[], tookMs: number): void;
  /** A snapshot was made, or could not be. */
  snapshot(isMade: boolean): void;
}

/** Measures nothing. */
export const noMeter: RuntimeMeter = {
  deadline: () => undefined,
  appended: () => undefined,
  snapshot: () => undefined,
};
