import { existsSync } from "node:fs";
import { join } from "node:path";
import helmet from "@fastify/helmet";
import fastifyStatic from "@fastify/static";
import Fastify, { type FastifyBaseLogger } from "fastify";
import { serializerCompiler, validatorCompiler, type ZodTypeProvider } from "fastify-type-provider-zod";
import type { Logger } from "pino";
import { healthRoutes } from "./health-routes.ts";
import { instanceRoutes } from "./instance-routes.ts";
import { operatorRoutes } from "./operator-routes.ts";
import type { Api, ApiParts } from "./parts.ts";
import { handleError, handleNotFound } from "./problems.ts";

const BODY_MOST = 65_536;

// Given where Fastify would otherwise load compilers that nothing here uses; its types know no compilers but those.
const compilersFactory = {
  buildValidator: () => validatorCompiler,
  buildSerializer: () => serializerCompiler,
} as never;

/** The HTTP side: health, instances, operators, and the console's files. */
export async function createApi(parts: ApiParts, log: Logger, prepare?: (api: Api) => Promise<void>): Promise<Api> {
  const api: Api = Fastify({
    loggerInstance: log.child(
      { part: "api" },
      { level: log.level === "trace" ? "trace" : "warn" },
    ) as FastifyBaseLogger,
    bodyLimit: BODY_MOST,
    // Held pulses and watchers must not keep a stopping service waiting.
    forceCloseConnections: true,
    routerOptions: { ignoreTrailingSlash: true },
    schemaController: { compilersFactory },
  }).withTypeProvider<ZodTypeProvider>();
  api.setErrorHandler(handleError);
  api.setNotFoundHandler(handleNotFound);
  await prepare?.(api);
  await api.register(helmet, { contentSecurityPolicy: { directives: contentPolicy }, strictTransportSecurity: false });
  api.register(async (scope) => {
    healthRoutes(scope.withTypeProvider<ZodTypeProvider>(), parts);
    instanceRoutes(scope.withTypeProvider<ZodTypeProvider>(), parts);
  });
  api.register((scope) => operatorRoutes(scope.withTypeProvider<ZodTypeProvider>(), parts));
  const { consoleFolder } = parts;
  if (consoleFolder !== undefined && existsSync(join(consoleFolder, "index.html"))) {
    await api.register(fastifyStatic, { root: consoleFolder, wildcard: false });
  }
  await api.ready();
  return api;
}

/** The console needs nothing from anywhere else; plain HTTP on a local network must keep working. */
const contentPolicy = {
  "default-src": ["'self'"],
  "style-src": ["'self'", "'unsafe-inline'"],
  "img-src": ["'self'", "data:"],
  "connect-src": ["'self'"],
  "frame-ancestors": ["'none'"],
  "upgrade-insecure-requests": null,
};
