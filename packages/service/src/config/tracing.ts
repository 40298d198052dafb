import { ConfigName } from "@yellow-harbor/protocol";
import { z } from "zod";

/** Where traces are sent. */
export const Tracing = z
  .strictObject({
    url: z.url({ protocol: /^https?$/ }).meta({
      description: "Where traces are sent (OTLP over HTTP, JSON), such as http://127.0.0.1:4318/v1/traces.",
    }),
    share: z.number().min(0).max(1).default(0.01).meta({
      description:
        "Share of requests and travels that are traced, from 0 to 1. A request over HTTP whose caller traces it is traced in any case.",
    }),
    secret: ConfigName.optional().meta({
      description: "Name of a secret that is sent as a bearer token.",
    }),
  })
  .optional()
  .meta({ description: "Traces of requests and travels; none when left out." });
export type TracingConfig = NonNullable<z.output<typeof Tracing>>;
