import type { HarborState } from "@yellow-harbor/core";
import { type CloudEvent, WEBHOOK_TYPE_PREFIX, type WebhookEventType } from "@yellow-harbor/protocol";
import type { Logger } from "pino";
import { isMeant, type WebhookConfig } from "../config/webhook.ts";
import type { NewWebhookEvent } from "../journal/webhook-store.ts";
import type { WebhookTeller } from "../runtime/webhook-teller.ts";
import { Known, messageOf, type WebhookMessage } from "./webhook-data.ts";

/** A message in the form in which it is sent. */
export function cloudEvent(
  harbor: string,
  id: string,
  atMs: number,
  { type, subject, data }: Pick<WebhookMessage, "type" | "subject" | "data">,
): CloudEvent {
  return {
    specversion: "1.0",
    id,
    source: `/harbors/${harbor}`,
    type: `${WEBHOOK_TYPE_PREFIX}${type}`,
    subject,
    partitionkey: subject,
    time: new Date(atMs).toISOString(),
    datacontenttype: "application/json",
    data,
  };
}

interface TellerParts {
  readonly harbor: string;
  readonly webhooks: readonly WebhookConfig[];
  /** State that the harbor begins with. */
  readonly state: HarborState;
  readonly wake: () => void;
  readonly log: Pick<Logger, "error">;
}

/** Turns what happens into what webhooks are told; undefined where there are none. Ids come of the journal's numbers. */
export function tellerFor({ harbor, webhooks, state, wake, log }: TellerParts): WebhookTeller | undefined {
  if (webhooks.length === 0) return undefined;
  const known = new Known(state);
  const isAsked = (type: WebhookEventType) => webhooks.some(({ events }) => isMeant(events, type));
  return {
    wake,
    tell: (event, { seq, atMs }, now): readonly NewWebhookEvent[] => {
      known.state = now;
      let message: WebhookMessage | undefined;
      try {
        message = messageOf(event, known, atMs);
      } catch (error) {
        // That somebody is not told is no reason to stop what they would be told of.
        log.error({ err: error, kind: event.kind }, "what webhooks are to be told could not be made");
      }
      if (message === undefined || !isAsked(message.type)) return [];
      const { type, lobby = null } = message;
      return [{ type, lobby, atMs, event: JSON.stringify(cloudEvent(harbor, String(seq), atMs, message)) }];
    },
  };
}
