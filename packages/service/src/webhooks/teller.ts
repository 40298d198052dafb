import { type CloudEvent, WEBHOOK_TYPE_PREFIX } from "@yellow-harbor/protocol";
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
  /** Those that there are now. */
  readonly webhooks: () => readonly WebhookConfig[];
  readonly wake: () => void;
  readonly log: Pick<Logger, "error">;
}

/** Turns what happens into what webhooks are told. Ids come of the journal's numbers. */
export function tellerFor({ harbor, webhooks, wake, log }: TellerParts): WebhookTeller {
  /** Of whom is told; nobody is known while there is nobody to tell. */
  let known: Known | undefined;
  return {
    wake,
    tell: (event, { seq, atMs }, now): readonly NewWebhookEvent[] => {
      const asking = webhooks();
      if (asking.length === 0) {
        known = undefined;
        return [];
      }
      known ??= new Known(now);
      known.state = now;
      let message: WebhookMessage | undefined;
      try {
        message = messageOf(event, known, atMs);
      } catch (error) {
        // That somebody is not told is no reason to stop what they would be told of.
        log.error({ err: error, kind: event.kind }, "what webhooks are to be told could not be made");
      }
      if (message === undefined) return [];
      const { type, lobby = null } = message;
      if (!asking.some(({ events }) => isMeant(events, type))) return [];
      return [{ type, lobby, atMs, event: JSON.stringify(cloudEvent(harbor, String(seq), atMs, message)) }];
    },
  };
}
