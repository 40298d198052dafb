import type { HarborEvent, HarborState } from "@yellow-harbor/core";
import type { NewWebhookEvent } from "../journal/webhook-store.ts";

/** Says what webhooks are to be told. Nothing of it may throw. */
export interface WebhookTeller {
  /** What an event comes to; `state` is as it was right after it. */
  tell(
    event: HarborEvent,
    at: { readonly seq: number; readonly atMs: number },
    state: HarborState,
  ): readonly NewWebhookEvent[];
  /** Something is durable that webhooks have not been told. */
  wake(): void;
}
