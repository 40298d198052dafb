import { ConfigName, Ms, webhookEventTypes } from "@yellow-harbor/protocol";
import { z } from "zod";

/** `room.*` stands for all types that begin so, `*` for all. */
const patterns = ["*", ...new Set(webhookEventTypes.map((type) => `${type.split(".")[0]}.*`))];

const EventPattern = z
  .string()
  .refine(
    (pattern) => patterns.includes(pattern) || webhookEventTypes.some((type) => type === pattern),
    `expected a type of docs/webhooks.md, such as run.finished, or one of ${patterns.join(", ")}`,
  );

/** Where others are told what happens. */
export const Webhook = z.strictObject({
  url: z.url({ protocol: /^https?$/ }).meta({ description: "Where events are sent, by POST." }),
  secrets: z.array(ConfigName).min(1).max(2).meta({
    description:
      "Names of `secrets` that each event is signed with: 24 bytes or more. Two while one takes the place of the other.",
  }),
  events: z.array(EventPattern).min(1).max(64).default(["*"]).meta({
    description:
      "Types of events, such as run.finished; room.* for all of rooms, * for all but audit.added, which has to be named.",
  }),
  lobbies: z.array(ConfigName).max(64).default([]).meta({
    description: "Only what happens in these lobbies; everything when empty.",
  }),
  batch: z.int().min(1).max(100).default(1).meta({
    description: "Maximum of events in one request. With more than 1 they come as a JSON array.",
  }),
  giveUpAfterMs: Ms(86_400_000, "An event that could not be sent for so long is put aside.", {
    min: 1_000,
    max: 30 * 86_400_000,
  }),
  timeoutMs: Ms(10_000, "How long an answer may take.", { min: 100, max: 60_000 }),
  privateAddresses: z.boolean().default(false).meta({
    description: "Whether the address may be one of this computer or of its own network.",
  }),
});
export type WebhookConfig = z.output<typeof Webhook>;

/** What has addresses and names of operators: whoever is to be told of it says so. */
const NAMED_ALONE = "audit.added";

/** Whether a webhook is told of a type. */
export const isMeant = (events: readonly string[], type: string): boolean =>
  events.some(
    (pattern) => (pattern === "*" && type !== NAMED_ALONE) || pattern === type || pattern === `${type.split(".")[0]}.*`,
  );
