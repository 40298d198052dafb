import { z } from "zod";
import { AtMs } from "./basics.ts";
import { ConfigName } from "./ids.ts";
import { type WebhookEventType, webhookEventTypes } from "./webhook-events.ts";

const EventType = z.enum(webhookEventTypes as [WebhookEventType, ...WebhookEventType[]]);

/** What came of one attempt to send. */
const Attempt = z.object({
  atMs: AtMs,
  tookMs: z.number(),
  events: z.int(),
  text: z.string().meta({ description: "What came back, or why nothing did." }),
});

export const WebhookView = z
  .object({
    name: ConfigName,
    url: z.string().meta({ description: "Without a query, which may hold a secret." }),
    events: z.array(z.string()),
    lobbies: z.array(ConfigName).meta({ description: "All when empty." }),
    state: z.enum(["idle", "sending", "failing"]).meta({
      description: "idle: nothing waits; sending; failing: the last attempts failed, the next one is made by itself.",
    }),
    waiting: z.int().meta({ description: "Events that it has not got yet, as far as they were read: at most 1,000." }),
    oldestAtMs: AtMs.optional().meta({ description: "When the oldest of them happened." }),
    sent: z.int().meta({ description: "Events that it got since the service started." }),
    dead: z.int().meta({ description: "Events that were given up." }),
    lastSuccess: Attempt.optional(),
    lastFailure: Attempt.optional(),
    nextAttemptAtMs: AtMs.optional(),
  })
  .meta({ id: "Webhook", description: "Where others are told what happens, and how that goes." });
export type WebhookView = z.infer<typeof WebhookView>;

export const WebhookList = z.object({ webhooks: z.array(WebhookView) }).meta({ id: "WebhookList" });
export type WebhookList = z.infer<typeof WebhookList>;

export const DeadEvent = z
  .object({
    number: z.int(),
    type: EventType,
    subject: z.string(),
    atMs: AtMs.meta({ description: "When it happened." }),
    attempts: z.int(),
    givenUpAtMs: AtMs,
    why: z.string(),
    again: z.boolean().meta({ description: "Whether it is being sent again." }),
    event: z.record(z.string(), z.unknown()).meta({ description: "As it was sent." }),
  })
  .meta({ id: "DeadEvent", description: "An event that was given up for one webhook." });
export type DeadEvent = z.infer<typeof DeadEvent>;

export const DeadQuery = z.object({
  limit: z.coerce.number().int().min(1).max(1_000).default(100),
  after: z.coerce.number().int().min(0).default(0).meta({ description: "Only events with higher numbers." }),
});
export type DeadQuery = z.infer<typeof DeadQuery>;

export const DeadPage = z
  .object({
    events: z.array(DeadEvent).meta({ description: "The oldest first." }),
    next: z.int().optional().meta({ description: "Give it as after for the next page." }),
  })
  .meta({ id: "DeadPage" });
export type DeadPage = z.infer<typeof DeadPage>;

export const DeadChoice = z
  .strictObject({
    numbers: z.array(z.int().min(1)).min(1).max(1_000).optional().meta({ description: "All when left out." }),
  })
  .meta({ id: "DeadChoice" });
export type DeadChoice = z.infer<typeof DeadChoice>;

export const DeadChosen = z.object({ events: z.int() }).meta({ id: "DeadChosen" });
export type DeadChosen = z.infer<typeof DeadChosen>;

export const WebhookTested = z
  .object({ ok: z.boolean(), tookMs: z.number(), text: z.string() })
  .meta({ id: "WebhookTested", description: "What came back, or why nothing did." });
export type WebhookTested = z.infer<typeof WebhookTested>;
