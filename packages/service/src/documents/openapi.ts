import swagger from "@fastify/swagger";
import { createJsonSchemaTransform, createJsonSchemaTransformObject } from "fastify-type-provider-zod";
import pino from "pino";
import type { ApiParts } from "../api/parts.ts";
import { createApi } from "../api/server.ts";
import { SERVICE_VERSION } from "../version.ts";

const TARGET = { zodToJsonConfig: { target: "draft-2020-12" as const } };

/** OpenAPI 3.1 of the HTTP side, from the very schemas that check requests. */
export async function openApiDocument(): Promise<object> {
  // Describing the routes calls none of them, so they need none of their parts.
  const parts = { consoleFolder: undefined, access: { loopbackIsEnough: false, token: "" } } as unknown as ApiParts;
  const api = await createApi(parts, pino({ level: "silent" }), async (scope) => {
    await scope.register(swagger, {
      openapi: {
        openapi: "3.1.0",
        info: {
          title: "Yellow Harbor",
          version: SERVICE_VERSION,
          license: { name: "MIT", identifier: "MIT" },
          description:
            "What operators, back ends and dedicated instances say over HTTP. Every refusal is an application/problem+json of the shape Problem (RFC 9457); its codes are listed in problems.md.",
        },
        servers: [{ url: "http://127.0.0.1:7420", description: "A service on this computer." }],
        components: {
          securitySchemes: {
            operatorToken: {
              type: "http",
              scheme: "bearer",
              description: "Not needed on the service's own computer while it listens on loopback.",
            },
            instanceKey: {
              type: "http",
              scheme: "bearer",
              description: "The key an instance is given in its environment.",
            },
          },
        },
      },
      transform: createJsonSchemaTransform(TARGET),
      transformObject: createJsonSchemaTransformObject(TARGET),
    });
  });
  const document = api.swagger() as unknown as {
    paths: Record<string, Record<string, { responses: Record<string, unknown> }>>;
  };
  await api.close();
  for (const operation of Object.values(document.paths).flatMap((path) => Object.values(path))) {
    operation.responses.default = REFUSAL;
  }
  return document;
}

const REFUSAL = {
  description: "Refused, with a code.",
  content: { "application/problem+json": { schema: { $ref: "#/components/schemas/Problem" } } },
};
