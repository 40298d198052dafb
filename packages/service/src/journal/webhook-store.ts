import type { WebhookEventType } from "@yellow-harbor/protocol";

/** Something that webhooks are to be told of. */
export interface NewWebhookEvent {
  readonly type: WebhookEventType;
  readonly lobby: string | null;
  /** Milliseconds since 1970-01-01T00:00:00Z. */
  readonly atMs: number;
  /** As it is sent, as JSON. */
  readonly event: string;
}

export interface StoredWebhookEvent extends NewWebhookEvent {
  /** Goes up in the order in which things happened; never given out twice. */
  readonly number: number;
}

/** How far a webhook is: it has got all events up to a number, and some of those behind it. */
export interface WebhookPlace {
  readonly webhook: string;
  readonly upTo: number;
  readonly beyond: readonly number[];
}

export interface NewDeadEvent extends Omit<StoredWebhookEvent, "lobby"> {
  readonly attempts: number;
  readonly givenUpAtMs: number;
  readonly why: string;
}

export interface DeadEventRow extends NewDeadEvent {
  /** It is to be sent again. */
  readonly again: boolean;
}

export interface WebhookProgress {
  readonly place: WebhookPlace;
  readonly dead: readonly NewDeadEvent[];
  /** Numbers of dead events that it has got after all. */
  readonly revived: readonly number[];
}

/** What is kept of webhooks. Their events come in with the batches of the journal, whole or not at all. */
export interface WebhookStore {
  /**
   * Where these webhooks are; what is kept of others is removed. One that is new begins behind all that has happened so far.
   */
  openWebhooks(names: readonly string[]): Promise<WebhookPlace[]>;
  /** Adds what is told of something that is in no batch. Resolves once it is durable. */
  addWebhookEvents(events: readonly NewWebhookEvent[]): Promise<void>;
  /** Events with higher numbers than `after`, in their order. */
  webhookEvents(after: number, limit: number): Promise<StoredWebhookEvent[]>;
  /** Resolves once it is durable, to how many dead events had to be dropped since there were too many. */
  noteWebhook(progress: WebhookProgress): Promise<number>;
  deadEvents(webhook: string, after: number, limit: number): Promise<DeadEventRow[]>;
  deadCounts(): Promise<{ webhook: string; count: number }[]>;
  /** Dead events that are to be sent again. */
  revivedEvents(webhook: string, limit: number): Promise<DeadEventRow[]>;
  /** Has dead events sent again, or forgets them: all, or some. Resolves to how many. */
  settleDead(webhook: string, numbers: readonly number[] | undefined, how: "again" | "discard"): Promise<number>;
}
