import { type HttpRoute, instanceRoutes, operatorRoutes, Problem, type RouteHeader } from "@yellow-harbor/protocol";
import type { z } from "zod";
import { SERVICE_VERSION } from "../version.ts";
import { type Json, schemaOf } from "./schemas.ts";

/** OpenAPI 3.1 of the HTTP side, from the very table that requests are served and checked by. */
export function openApiDocument(): { openapi: string } & Json {
  const named: Json = {};
  const paths: Record<string, Json> = {};
  for (const [name, route] of Object.entries<HttpRoute>({ ...operatorRoutes, ...instanceRoutes })) {
    const path = route.path.replaceAll(/:(\w+)/g, "{$1}");
    paths[path] = { ...paths[path], [route.method.toLowerCase()]: operationOf(name, route, named) };
  }
  schemaOf(Problem, named);
  return {
    openapi: "3.1.0",
    info: {
      title: "Yellow Harbor",
      version: SERVICE_VERSION,
      license: { name: "MIT", identifier: "MIT" },
      description:
        "What operators, back ends and dedicated instances say over HTTP. Every refusal is an application/problem+json of the shape Problem (RFC 9457); its codes are listed in problems.md.",
    },
    servers: [{ url: "http://127.0.0.1:7420", description: "A service on this computer." }],
    paths,
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
      schemas: named,
    },
  };
}

function operationOf(name: string, route: HttpRoute, named: Json): Json {
  const { tag, summary, needs, params, query, body, example, reply, badStatus, streams, headers = [], tagged } = route;
  const json = (schema: z.ZodType, more: Json = {}) => ({
    "application/json": { schema: schemaOf(schema, named), ...more },
  });
  const good: Json = reply
    ? { description: "Done.", ...(tagged && { headers: TAG_HEADER }), content: json(reply) }
    : { description: "Sent piece by piece.", content: { [streams ?? "*/*"]: { schema: { type: "string" } } } };
  const parameters = [
    ...parametersOf(params, "path", named),
    ...parametersOf(query, "query", named),
    ...headers.map((header) => headerParameter[header]),
  ];
  return {
    operationId: name,
    tags: [tag],
    summary,
    ...(needs !== null && { security: [needs === "instance" ? { instanceKey: [] } : { operatorToken: [] }] }),
    ...(needs !== null && needs !== "instance" && { "x-needs": needs }),
    ...(parameters.length > 0 && { parameters }),
    ...(body && { requestBody: { required: true, content: json(body, example && { example }) } }),
    responses: {
      200: good,
      ...(badStatus && reply && { [badStatus]: { description: "Bad update.", content: json(reply) } }),
      default: REFUSAL,
    },
  };
}

const headerParameter: Readonly<Record<RouteHeader, Json>> = {
  "if-match": {
    name: "If-Match",
    in: "header",
    required: false,
    description: "Entity tag of the room that the request was made from (RFC 9110, section 13.1.1); else refused.",
    schema: { type: "string", pattern: '^"[0-9]+"$' },
  },
  "idempotency-key": {
    name: "Idempotency-Key",
    in: "header",
    required: false,
    description: "Chosen by whoever asks, for one request: a repeat with the same key does nothing anew.",
    schema: { type: "string", minLength: 1, maxLength: 128 },
  },
};

const TAG_HEADER = {
  ETag: { description: "The revision, in quotes.", schema: { type: "string" } },
};

const REFUSAL = {
  description: "Refused, with a code.",
  content: { "application/problem+json": { schema: { $ref: "#/components/schemas/Problem" } } },
};

function parametersOf(schema: z.ZodType | undefined, place: "path" | "query", named: Json): Json[] {
  if (schema === undefined) return [];
  const { properties = {}, required = [] } = schemaOf(schema, named) as {
    properties?: Record<string, Json>;
    required?: string[];
  };
  return Object.entries(properties).map(([name, { description, ...own }]) => ({
    name,
    in: place,
    required: place === "path" || required.includes(name),
    ...(description !== undefined && { description }),
    schema: own,
  }));
}
