import type { WrittenEvent } from "@yellow-harbor/core";
import type { InstanceView } from "@yellow-harbor/protocol";
import type { NewWebhookEvent } from "./webhook-store.ts";

/** One event as the journal keeps it. */
export interface JournalRow extends WrittenEvent {
  readonly seq: number;
  /** Milliseconds since 1970-01-01T00:00:00Z. */
  readonly atMs: number;
}

/** Events that become durable together, with the records that are projected from them. */
export interface JournalBatch {
  readonly rows: readonly JournalRow[];
  readonly instances: readonly InstanceView[];
  /** What webhooks are to be told of it, where there are any. */
  readonly webhookEvents?: readonly NewWebhookEvent[];
}

/** How much of the past is kept. */
export interface JournalKeep {
  readonly events: number;
  readonly bytes: number;
}

/**
 * Why a batch was not taken. `fenced`: somebody else owns the harbor now, and nothing of the batch is or will be durable.
 * `away`: the log cannot be reached or written, and whether the batch is durable is not known.
 */
export class LogRejection extends Error {
  readonly code: "fenced" | "away";
  constructor(code: "fenced" | "away", message: string, options?: ErrorOptions) {
    super(message, options);
    this.code = code;
  }
}

/**
 * The durable record of everything that happened in one harbor. A port: nothing outside this folder may assume that the log
 * is on this computer. It was opened with an epoch, and is its owner's until somebody opens it with a higher one.
 */
export interface EventLog {
  readonly epoch: number;
  /**
   * Resolves once the batch is durable. Rejects with a {@link LogRejection}: as `fenced` when `expectedSeq` is not the
   * number of the last event or the epoch not the newest one. Whoever appends must not go on after that.
   */
  append(batch: JournalBatch, expectedSeq: number): Promise<void>;
  /** Events with numbers from `fromSeq` on, at most `limit`. */
  read(fromSeq: number, limit: number): Promise<JournalRow[]>;
  /**
   * Removes at most `limit` of the oldest events that a snapshot of `version` stands for: those beyond the `keep.events`
   * youngest, and more of them while the journal takes more than `keep.bytes`. Resolves to how many were removed: ask
   * again until that is 0.
   */
  trim(keep: JournalKeep, version: number, limit: number): Promise<number>;
}
