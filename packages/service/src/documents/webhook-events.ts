import { CloudEvent, type WebhookEventType, webhookEvents, webhookEventTypes } from "@yellow-harbor/protocol";
import { cloudEvent } from "../webhooks/teller.ts";
import { type Json, schemaOf } from "./schemas.ts";

const EXAMPLE_MS = 1_795_950_000_000;

/** An example of each event as it is sent. */
const exampleOf = (type: WebhookEventType) => {
  const { example } = webhookEvents[type];
  return cloudEvent("north-quay", "4711", EXAMPLE_MS, { type, subject: subjectOf(type), data: example as never });
};

function subjectOf(type: WebhookEventType): string {
  const { about, example } = webhookEvents[type];
  const named = (example as Readonly<Record<string, unknown>>)[about];
  const id = typeof named === "string" ? named : (named as { id?: string } | undefined)?.id;
  return id ?? (example as { players?: readonly { id: string }[] }).players?.[0]?.id ?? about;
}

/** JSON Schema of everything that webhooks tell: the frame around it, and by type its data. */
export function webhookSchemas(): object {
  const schemas: Json = {};
  const event = schemaOf(CloudEvent, schemas);
  const data = Object.fromEntries(webhookEventTypes.map((type) => [type, schemaOf(webhookEvents[type].data, schemas)]));
  return { $schema: "https://json-schema.org/draft/2020-12/schema", event, data, components: { schemas } };
}

/** The events of the page about webhooks: when each comes, and an example. */
export function webhookReference(): string {
  const rows = webhookEventTypes.map((type) => {
    const { about, when } = webhookEvents[type];
    return `| [\`${type}\`](#${type.replace(".", "")}) | ${about} | ${when} |`;
  });
  const examples = webhookEventTypes.flatMap((type) => [
    `### ${type}`,
    "",
    "```json webhook-event",
    JSON.stringify(exampleOf(type), null, 2),
    "```",
    "",
  ]);
  return ["| type | about | when |", "|---|---|---|", ...rows, "", ...examples].join("\n");
}
