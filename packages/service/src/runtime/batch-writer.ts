import type { HarborEvent } from "@yellow-harbor/core";
import type { InstanceView } from "@yellow-harbor/protocol";
import { problem } from "@yellow-harbor/protocol";
import type { Logger } from "pino";
import { type EventLog, type JournalRow, LogRejection } from "../journal/event-log.ts";
import type { NewWebhookEvent } from "../journal/webhook-store.ts";
import type { Tokens } from "../keys/tokens.ts";
import { steadyMs } from "./clock.ts";
import type { RuntimeFailure } from "./failure.ts";
import type { RuntimeMeter } from "./meter.ts";
import type { OutboxEntry } from "./outbox.ts";
import { SnapshotKeeper, type SnapshotPolicy, type SnapshotPorts } from "./snapshots.ts";
import type { WebhookTeller } from "./webhook-teller.ts";

/** What one write makes durable, and what is said and done after it. */
export interface Batch {
  readonly rows: JournalRow[];
  /** Those of the rows. */
  readonly events: HarborEvent[];
  readonly instances: Map<string, InstanceView>;
  readonly webhookEvents: NewWebhookEvent[];
  readonly outbox: OutboxEntry[];
}

export const newBatch = (): Batch => ({
  rows: [],
  events: [],
  instances: new Map(),
  webhookEvents: [],
  outbox: [],
});

export interface WriterParts {
  /**
   * Whether the harbor is surely this process's: what is said without an append has no other proof. Always, where nobody
   * else can have it while this process lives.
   */
  readonly isHeld?: () => boolean;
  readonly tokens: Pick<Tokens, "signPass">;
  readonly snapshots: SnapshotPolicy & Omit<SnapshotPorts, "eventLog">;
  readonly log: Pick<Logger, "error" | "fatal">;
  readonly meter: RuntimeMeter;
  /** Where webhooks are told what happens. */
  readonly teller?: WebhookTeller | undefined;
}

/** Makes batches durable, one after the other, in a log that was opened once. */
export class BatchWriter {
  readonly #parts: WriterParts;
  readonly #eventLog: EventLog;
  readonly #snapshots: SnapshotKeeper;
  /** Number of the last durable event. */
  durableSeq: number;
  commits = 0;

  constructor(parts: WriterParts, eventLog: EventLog, lastSeq: number) {
    this.#parts = parts;
    this.#eventLog = eventLog;
    this.durableSeq = lastSeq;
    this.#snapshots = new SnapshotKeeper({ ...parts.snapshots, eventLog }, parts.snapshots, lastSeq, parts);
  }

  /** Resolves once the batch is durable and its passes are signed. Rejects when the log does not take it. */
  async write({ rows, events, instances, webhookEvents, outbox }: Batch): Promise<void> {
    const preparing = outbox.flatMap((entry) => this.#prepare(entry) ?? []);
    const isProven = rows.length > 0 || (this.#parts.isHeld?.() ?? true);
    // An append of nothing is proof as well that the harbor is still this one's.
    if (!isProven) await this.#eventLog.append({ rows: [], instances: [] }, this.durableSeq);
    if (rows.length > 0) {
      const beganMs = steadyMs();
      await this.#eventLog.append({ rows, instances: [...instances.values()], webhookEvents }, this.durableSeq);
      this.#parts.meter.appended(rows, events, steadyMs() - beganMs);
      this.durableSeq = rows.at(-1)?.seq ?? this.durableSeq;
      this.commits += 1;
      if (webhookEvents.length > 0) this.#parts.teller?.wake();
    }
    await Promise.all(preparing);
    this.#snapshots.consider(this.durableSeq);
  }

  /** Events since the newest snapshot. */
  get behindSnapshot(): number {
    return this.#snapshots.behind(this.durableSeq);
  }

  /** Does something while no snapshot is being made. */
  betweenSnapshots<T>(work: () => Promise<T>): Promise<T> {
    return this.#snapshots.between(work);
  }

  /** Resolves when no snapshot is being made, and none is due. */
  settle(): Promise<void> {
    return this.#snapshots.settle(this.durableSeq);
  }

  #prepare(entry: OutboxEntry): Promise<void> | undefined {
    if (entry.out === "pass") {
      return this.#parts.tokens.signPass(entry.push.pass).then((pass) => {
        entry.pass = pass;
      });
    }
    if (entry.out !== "settle") return undefined;
    return entry.prepare?.().catch((error: unknown) => {
      this.#parts.log.error({ err: error }, "a reply could not be prepared");
      entry.refuse(problem("internal", "The reply could not be made; the change stands. Connect again."));
    });
  }
}

/** What a rejected append comes to. What the log itself does not name may have been kept, or not. */
export const rejectionOf = (error: unknown): RuntimeFailure["what"] =>
  error instanceof LogRejection ? error.code : "away";
