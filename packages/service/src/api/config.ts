import type { OperatorRoutes } from "@yellow-harbor/protocol";
import type { ApiParts } from "./parts.ts";
import type { Handlers } from "./serve-routes.ts";

/** What is done to the service as a whole while it runs. */
export const configHandlers = ({
  inForce,
  reload,
  applyConfig,
  drain,
  connectionCount,
}: ApiParts): Handlers<Pick<OperatorRoutes, "config" | "configChanges" | "applyConfig" | "drain">> => ({
  config: () => ({ config: { ...inForce.current } }),
  configChanges: () => inForce.changes(reload),
  applyConfig: () => applyConfig(),
  drain: ({ body, reply }) => {
    // Whoever asked hears of it first.
    reply.raw.once("close", () => drain(body));
    return { connections: connectionCount() };
  },
});
