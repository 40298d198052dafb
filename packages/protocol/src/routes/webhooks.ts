import { z } from "zod";
import { ConfigName } from "../ids.ts";
import { DeadChoice, DeadChosen, DeadPage, DeadQuery, WebhookList, WebhookTested } from "../webhooks.ts";
import type { HttpRoutes } from "./route.ts";

const params = z.object({ webhook: ConfigName });

/** How telling others goes. */
export const webhookRoutes = {
  webhooks: {
    method: "GET",
    path: "/v1/webhooks",
    tag: "webhooks",
    needs: "look",
    summary: "All webhooks, and how sending goes.",
    reply: WebhookList,
  },
  deadEvents: {
    method: "GET",
    path: "/v1/webhooks/:webhook/dead",
    tag: "webhooks",
    needs: "look",
    summary: "Events that were given up for a webhook, the oldest first.",
    params,
    query: DeadQuery,
    reply: DeadPage,
  },
  resendEvents: {
    method: "POST",
    path: "/v1/webhooks/:webhook/resend",
    tag: "webhooks",
    needs: "operate",
    summary: "Send events again that were given up: all, or some by their numbers.",
    params,
    body: DeadChoice,
    example: { numbers: [412] },
    reply: DeadChosen,
  },
  discardEvents: {
    method: "POST",
    path: "/v1/webhooks/:webhook/discard",
    tag: "webhooks",
    needs: "operate",
    summary: "Forget events that were given up: all, or some by their numbers.",
    params,
    body: DeadChoice,
    example: { numbers: [412] },
    reply: DeadChosen,
  },
  testWebhook: {
    method: "POST",
    path: "/v1/webhooks/:webhook/test",
    tag: "webhooks",
    needs: "operate",
    summary: "Send a test event now, once, and say what came back.",
    params,
    reply: WebhookTested,
  },
} as const satisfies HttpRoutes;
