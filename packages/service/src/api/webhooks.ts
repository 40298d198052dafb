import { type OperatorRoutes, problem } from "@yellow-harbor/protocol";
import type { ApiParts } from "./parts.ts";
import type { Handlers } from "./serve-routes.ts";

type WebhookRoutes = Pick<OperatorRoutes, "webhooks" | "deadEvents" | "resendEvents" | "discardEvents" | "testWebhook">;

/** How telling others goes, and what becomes of what could not be told. */
export const webhookHandlers = ({ webhooks }: ApiParts): Handlers<WebhookRoutes> => ({
  webhooks: () => ({ webhooks: webhooks.views() }),
  deadEvents: ({ params: { webhook }, query: { after, limit } }) =>
    webhooks.has(webhook) ? webhooks.dead(webhook, after, limit) : unknown(webhook),
  resendEvents: async ({ params: { webhook }, body: { numbers } }) =>
    webhooks.has(webhook) ? { events: await webhooks.resend(webhook, numbers) } : unknown(webhook),
  discardEvents: async ({ params: { webhook }, body: { numbers } }) =>
    webhooks.has(webhook) ? { events: await webhooks.discard(webhook, numbers) } : unknown(webhook),
  testWebhook: async ({ params: { webhook } }) => (await webhooks.test(webhook)) ?? unknown(webhook),
});

const unknown = (name: string) => ({
  refused: problem(
    "webhook-unknown",
    `There is no webhook ${name}. \`yh webhook list\` shows them; webhooks of the configuration adds one, and yh config apply takes it.`,
  ),
});
