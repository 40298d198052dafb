import type { EventLog } from "./event-log.ts";
import type { HarborHistory } from "./harbor-history.ts";
import type { OperatorStore } from "./operator-store.ts";
import type { Snapshot, Snapshots } from "./snapshots.ts";
import type { WebhookStore } from "./webhook-store.ts";

/** How a harbor was found when its log was opened. */
export interface Found {
  readonly eventLog: EventLog;
  /** Number of the last event, 0 of a log that is empty. */
  readonly lastSeq: number;
  /** Time of the last event, 0 of a log that is empty. */
  readonly lastAtMs: number;
  /** The newest snapshot as it was then. */
  readonly snapshot: Promise<Snapshot | undefined>;
}

/** What is kept of one harbor, held by this process alone. */
export interface KeptHarbor extends Found {
  readonly snapshots: Snapshots;
  readonly history: HarborHistory;
  readonly operators: OperatorStore;
  readonly webhooks: WebhookStore;
  /** Secret of this harbor, 32 bytes, made when the data folder was. */
  readonly secret: Uint8Array;
  /**
   * Opens the log again, with a higher epoch, after it has rejected a batch. Rejects with a {@link LogRejection} when it
   * still cannot be had.
   */
  reopen(): Promise<Found>;
  close(): Promise<void>;
}
