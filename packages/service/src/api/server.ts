import { existsSync } from "node:fs";
import { join } from "node:path";
import fastifyCookie from "@fastify/cookie";
import helmet from "@fastify/helmet";
import fastifyStatic from "@fastify/static";
import { problem } from "@yellow-harbor/protocol";
import Fastify, { type FastifyBaseLogger } from "fastify";
import { serializerCompiler, validatorCompiler, type ZodTypeProvider } from "fastify-type-provider-zod";
import type { Logger } from "pino";
import type { Config } from "../config/schema.ts";
import type { Certificate } from "../front-door/certificate.ts";
import { HEADERS_MAX_BYTES, onClientError, REQUEST_LOOK_MS, REQUEST_MAX_MS } from "../front-door/client-errors.ts";
import { serveInstances } from "./instance-routes.ts";
import { countRequests } from "./metrics.ts";
import { serveOperators } from "./operators.ts";
import type { Api, ApiParts } from "./parts.ts";
import { handleError, handleNotFound, handleUnroutable, hostFault, sendProblem } from "./problems.ts";
import { traceRequests } from "./trace-requests.ts";

const BODY_MAX = 65_536;

const SERVER_LIMITS = {
  maxHeaderSize: HEADERS_MAX_BYTES,
  connectionsCheckingInterval: REQUEST_LOOK_MS,
  requireHostHeader: false,
};

// Given where Fastify would otherwise load compilers that nothing here uses; its types know no compilers but those.
const compilersFactory = {
  buildValidator: () => validatorCompiler,
  buildSerializer: () => serializerCompiler,
} as never;

/** The HTTP side: health, instances, operators, and the console's files. */
export async function createApi(parts: ApiParts, log: Logger, certificate?: Certificate): Promise<Api> {
  const api: Api = Fastify({
    loggerInstance: log as FastifyBaseLogger,
    bodyLimit: BODY_MAX,
    // Held polls and watchers must not keep a stopping service waiting.
    forceCloseConnections: true,
    routerOptions: { ignoreTrailingSlash: true },
    schemaController: { compilersFactory },
    // Node's own limits and refusals are set here, so that everything that leaves is a problem with a code.
    ...(certificate === undefined
      ? { http: SERVER_LIMITS }
      : // The same server over TLS, of which Fastify's types know only by another name.
        ({ https: { ...SERVER_LIMITS, ...certificate, minVersion: "TLSv1.2" } } as object)),
    requestTimeout: REQUEST_MAX_MS,
    clientErrorHandler: onClientError,
    frameworkErrors: handleUnroutable,
  }).withTypeProvider<ZodTypeProvider>();
  api.decorateReply("problemCode", null);
  countRequests(api, parts.metrics);
  if (parts.tracing) traceRequests(api, parts.tracing);
  api.setErrorHandler(handleError);
  api.setNotFoundHandler(handleNotFound);
  api.server.headersTimeout = REQUEST_MAX_MS;
  api.server.on("checkExpectation", (request, response) => {
    const detail = `The expectation ${String(request.headers.expect).slice(0, 100)} cannot be met; leave the Expect header out.`;
    const refused = problem("expectation-unknown", detail);
    const body = Buffer.from(JSON.stringify(refused));
    const headers = { "content-type": "application/problem+json", "content-length": body.length, connection: "close" };
    response.writeHead(refused.status, headers).end(body);
  });
  api.addHook("onRequest", async (request, reply) => {
    const refused = hostFault(request.raw);
    if (refused) return sendProblem(reply, refused);
  });
  await api.register(helmet, {
    contentSecurityPolicy: { directives: contentPolicy },
    strictTransportSecurity: strictFor(parts.inForce.current),
  });
  await api.register(fastifyCookie);
  api.register(async (scope) => serveInstances(scope.withTypeProvider<ZodTypeProvider>(), parts));
  api.register(async (scope) => serveOperators(scope.withTypeProvider<ZodTypeProvider>(), parts));
  const { consoleFolder } = parts;
  if (consoleFolder !== undefined && existsSync(join(consoleFolder, "index.html"))) {
    await api.register(fastifyStatic, { root: consoleFolder, wildcard: false });
  }
  await api.ready();
  return api;
}

const DAY_S = 86_400;

const strictFor = ({ listen: { tls } }: Config) =>
  tls === undefined || tls.hstsDays === 0 ? false : { maxAge: tls.hstsDays * DAY_S, includeSubDomains: false };

/** The console needs nothing from anywhere else; plain HTTP on a local network must keep working. */
const contentPolicy = {
  "default-src": ["'self'"],
  "style-src": ["'self'", "'unsafe-inline'"],
  "img-src": ["'self'", "data:"],
  "connect-src": ["'self'"],
  "frame-ancestors": ["'none'"],
  "upgrade-insecure-requests": null,
};
