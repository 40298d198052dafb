import { configJsonSchema } from "../config/json-schema.ts";
import { definitions } from "../metrics/definitions.ts";
import { asyncApiDocument } from "./asyncapi.ts";
import { configurationReference, problemsPage } from "./markdown.ts";
import { metricsPage } from "./metrics-page.ts";
import { openApiDocument } from "./openapi.ts";
import { webhookReference, webhookSchemas } from "./webhook-events.ts";

/** Names of all metrics of the service. */
export const metricNames: readonly string[] = Object.keys(definitions);

const json = (value: object) => `${JSON.stringify(value, null, 2)}\n`;

/** The generated documents: what each file in `docs/` must hold. */
export async function generatedDocuments(): Promise<Readonly<Record<string, string>>> {
  return {
    "docs/openapi.json": json(openApiDocument()),
    "docs/asyncapi.json": json(asyncApiDocument()),
    "docs/config.schema.json": json(configJsonSchema()),
    "docs/webhook-events.schema.json": json(webhookSchemas()),
    "docs/problems.md": problemsPage(),
    "docs/metrics.md": metricsPage(),
  };
}

const BEGIN = "<!-- reference begins -->";
const END = "<!-- reference ends -->";

/** Pages with a generated part, and what makes it. */
export const pagesWithReference: Readonly<Record<string, () => string>> = {
  "docs/configuration.md": configurationReference,
  "docs/webhooks.md": webhookReference,
};

/** A page with its generated reference brought up to date. */
export function withReference(page: string, reference: string): string {
  const begin = page.indexOf(BEGIN);
  const end = page.indexOf(END);
  if (begin < 0 || end < 0) throw new Error("the page has no marks for its reference");
  return `${page.slice(0, begin + BEGIN.length)}\n${reference}\n${page.slice(end)}`;
}
